// layers and supports of a project: every printed part as it lies, with the project's own cards.
#include "base/files.h"
#include "base/quantity.h"
#include "cli/made_project.h"
#include "formats/formats.h"
#include "layers/write_gcode.h"
#include "project/analysis.h"
#include "project/bed_print.h"
#include "project/marked_faces.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

using nlohmann::json;

namespace {

json pause_json(const PartPause& pause) {
    return {{"layer", pause.layer()},
            {"layer_with_raft", pause.layer_with_raft()},
            {"z_mm", number_json(pause.pause.at_mm)},
            {"because", pause.words()},
            {"sound", pause.pause.sound}};
}

} // namespace

int layers_of_project(const LayersArgs& args, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project({args.file, args.set, {}}, made, task)) return status;
    auto analysis = Analyser().analyse(made.evaluation, task);
    if (!analysis) return refuse(args.file, analysis.error(), 1);
    const Project& project = *made.project;
    if (!args.gcode.empty() && !std::filesystem::is_directory(args.gcode))
        return refuse(args.gcode, {ProblemCode::File, "There is no folder of this name.", "Make it first."}, 1);
    json parts = json::array(), islands = json::array(), pauses = json::array();
    size_t most_layers = 0;
    double height = 0, first_area = 0, motion_s = 0;
    for (const auto& part : analysis->parts) {
        if (!part->plan)
            return refuse(args.file,
                          {ProblemCode::Geometry, project.part(part->part)->name + ": " + part->plan_problem, ""}, 1);
        const Part& source = *project.part(part->part);
        json one = layers_json(*part->plan, layer_options(project, source).heights.layer_mm);
        one["name"] = source.name;
        one["quantity"] = source.quantity;
        one["price"] = part->plan->price;
        one["energy_kwh"] = part->plan->energy_kwh;
        one["material"] = material_of(project, source).name;
        most_layers = std::max(most_layers, one["layers"].get<size_t>());
        height = std::max(height, one["height_mm"].get<double>());
        first_area += one["first_layer_area_mm2"].get<double>() * source.quantity;
        for (const json& island : one["islands"]) islands.push_back(island);
        auto times =
            motion_times(*part->posed, part->supports.mesh, layer_options(made.evaluation, source, part->pose), task);
        if (!times) return refuse(args.file, times.error(), 1);
        tell_motion(*times, one);
        motion_s += times->total_s() * source.quantity;
        if (!args.gcode.empty()) {
            GcodeOptions how{source.name, material_of(project, source).filament_mm, {}, {}};
            for (const PartPause& pause : part->pauses)
                how.stops.push_back({pause.layer_with_raft() - 1, pause.words()});
            const std::string path = args.gcode + "/" + file_name_of(source.name) + ".gcode";
            if (auto wrong = write_plan(*part->posed, part->supports,
                                        layer_options(made.evaluation, source, part->pose), how, path, task))
                return refuse(path, *wrong, 1);
            one["gcode"] = path;
        }
        for (const PartPause& pause : part->pauses) {
            one["pauses"].push_back(pause_json(pause));
            pauses.push_back(one["pauses"].back());
            pauses.back()["part"] = source.name;
        }
        parts.push_back(std::move(one));
    }
    json beds = json::array();
    if (!args.gcode.empty()) {
        const size_t count = bed_plan_of(made.evaluation, *analysis).beds;
        for (size_t bed = 0; bed < count; ++bed) {
            auto lines = lines_of_bed(made.evaluation, *analysis, bed, task);
            if (!lines) return refuse(args.file, lines.error(), 1);
            const std::string path = args.gcode + "/bed-" + std::to_string(bed + 1) + ".gcode";
            auto text =
                write_gcode(*lines, {"bed " + std::to_string(bed + 1), project.material.filament_mm, {}, {}}, task);
            std::optional<Problem> wrong = text ? write_file_safely(path, *text) : text.error();
            if (wrong) return refuse(path, *wrong, 1);
            beds.push_back({{"gcode", path}, {"layers", lines->layers.size()}});
        }
    }
    if (common.json) {
        print_json({{"beds", beds},
                    {"layers", most_layers},
                    {"height_mm", height},
                    {"time_s", analysis->time_s},
                    {"time_motion_s", number_json(motion_s)},
                    {"filament_mm", analysis->filament_mm},
                    {"mass_g", analysis->mass_g},
                    {"price", analysis->price},
                    {"energy_kwh", analysis->energy_kwh},
                    {"energy_price", analysis->energy_price},
                    {"material", material_words(project)},
                    {"first_layer_area_mm2", first_area},
                    {"islands", islands},
                    {"pauses", pauses},
                    {"parts", parts}});
    } else {
        for (const json& one : parts) {
            std::cout << one["name"].get<std::string>() << " x " << one["quantity"] << ": " << one["layers"]
                      << " layers, " << format_duration(one["time_s"]) << " (" << format_duration(one["time_motion_s"])
                      << " by motion), " << format_number(one["mass_g"], 1) << " g each\n";
            for (const json& pause : one["pauses"])
                std::cout << "  stop before layer " << pause["layer_with_raft"] << ": "
                          << pause["because"].get<std::string>() << "\n";
        }
        std::cout << "together " << format_duration(analysis->time_s) << ", " << format_number(analysis->mass_g, 1)
                  << " g of " << material_words(project) << "\n";
    }
    return failed_status(args.file, made);
}

SupportOptions with_sizes(SupportOptions options, const SupportsArgs& args) {
    auto set = [](auto& size, const auto& given) {
        if (given) size = *given;
    };
    if (args.kind) options.kind = support_kind_called(*args.kind).value_or(options.kind);
    set(options.overhang_limit_deg, args.overhang_limit);
    if (args.contact_gap) options.gap_layers = 0;
    set(options.contact_gap_mm, args.contact_gap);
    set(options.gap_layers, args.gap_layers);
    set(options.spacing_mm, args.spacing);
    set(options.post_mm, args.post);
    set(options.tip_mm, args.tip);
    set(options.neck_mm, args.neck);
    set(options.foot_mm, args.foot);
    set(options.interface_layers, args.interface_layers);
    return options;
}

int supports_of_project(const SupportsArgs& args, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project({args.in, {}, {}}, made, task)) return status;
    if (int status = failed_status(args.in, made)) return status;
    json parts = json::array();
    std::vector<FileObject> objects;
    SupportFigures all;
    for (size_t i = 0; i < made.project->parts.size(); ++i) {
        const Part& part = *made.project->parts[i];
        const PartResult& result = made.evaluation.parts[i];
        if (part.stand_in || !result.mesh) continue;
        const SupportOptions options = with_sizes(support_options(*made.project, part), args);
        if (auto wrong = check_supports(options)) return refuse(args.in, *wrong, 2);
        TriMesh posed = transformed(*result.mesh, pose_of_part(part, result, made.evaluation.values));
        Supports supports = make_supports(
            posed, options, task, support_wishes(part, result, pose_of_part(part, result, made.evaluation.values)));
        SupportFigures figures = support_figures(posed, supports, options);
        json one = support_figures_json(figures);
        one["name"] = part.name;
        parts.push_back(one);
        all += figures;
        if (!supports.mesh.empty())
            objects.push_back({.name = part.name + " supports", .mesh = supports.mesh, .support = true});
    }
    if (all.supports == 0)
        return refuse(args.in,
                      {ProblemCode::Geometry, "Nothing hangs that a support could carry.", "No file was written."}, 1);
    std::optional<Problem> failed;
    if (written_format(args.out)->holds_many) {
        failed = write_objects(args.out, objects, made.project->name);
    } else {
        TriMesh mesh;
        for (const FileObject& object : objects) append(mesh, object.mesh);
        failed = write_mesh_file(args.out, mesh, "supports");
    }
    if (failed) return refuse(args.out, *failed, 1);
    if (common.json) {
        json answer = support_figures_json(all);
        answer["parts"] = parts;
        print_json(answer);
    } else {
        std::cout << args.out << ": " << all.supports << " supports under " << objects.size() << " parts\n";
    }
    return 0;
}

} // namespace lp::cli
