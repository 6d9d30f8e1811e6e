// practice: a mesh or a project's printed parts, laid by the practice printer and compared with the design.
#include "base/quantity.h"
#include "bed/bed_rows.h"
#include "cli/made_project.h"
#include "formats/formats.h"
#include "layers/practice_print.h"
#include "mesh/soundness.h"
#include "project/analysis.h"
#include <filesystem>
#include <iostream>

namespace lp::cli {

using nlohmann::json;

namespace {

/// Things printed beside each other; what one of them is made of may fuse.
struct Printing {
    std::string name;
    std::vector<TriMesh> bodies;
    TriMesh supports;
    PracticeOptions options;
    std::string body_name(size_t i) const { return bodies.size() == 1 ? name : name + "#" + std::to_string(i + 1); }
};

PracticeOptions options_of(PrinterCard card, const PracticeArgs& args) {
    if (args.growth) {
        card.outside_growth_mm = card.hole_shrink_mm = *args.growth;
        card.hole_shrinks.clear();
    }
    if (args.layer_height) card.layer_height_mm = *args.layer_height;
    if (args.flare) card.first_layer_flare_mm = *args.flare;
    return practice_options(card);
}

std::optional<Problem> not_closed(const Soundness& sound) {
    if (sound.closed) return {};
    return Problem{ProblemCode::Geometry,
                   "It is not closed: " + std::to_string(sound.open_edges.count) + " open edges.", "Mend it first."};
}

/// Reads what is to be printed; 0, or the exit status of what was refused.
int printings_of(const PracticeArgs& args, std::vector<Printing>& printings, const Task& task) {
    if (!is_project(args.file)) {
        auto read = read_mesh_file(args.file);
        if (!read) return refuse(args.file, read.error(), 3);
        const Soundness sound = check_soundness(read->mesh, {.self_intersections = false}, task);
        if (auto problem = not_closed(sound)) return refuse(args.file, *problem, 1);
        printings.push_back(
            {std::filesystem::path(args.file).filename().string(), separate_bodies(sound), {}, options_of({}, args)});
        return 0;
    }
    MadeProject made;
    if (int status = made_project({args.file, {}, {}}, made, task)) return status;
    if (int status = failed_status(args.file, made)) return status;
    std::vector<Vec3> sizes;
    for (size_t i = 0; i < made.project->parts.size(); ++i) {
        const Part& part = *made.project->parts[i];
        const PartResult& result = made.evaluation.parts[i];
        if (part.stand_in || !result.mesh) continue;
        TriMesh posed = transformed(*result.mesh, pose_of_part(part, result, made.evaluation.values));
        const Soundness sound = check_soundness(posed, {.self_intersections = false}, task);
        if (auto problem = not_closed(sound)) {
            problem->sentence = part.name + ": " + problem->sentence;
            return refuse(args.file, *problem, 1);
        }
        Printing printing{part.name, separate_bodies(sound), {}, options_of(made.project->printer, args)};
        printing.supports = supports_of(made.evaluation, part, posed, task).mesh;
        printing.options.support_gap_mm = support_options(*made.project, part).gap_mm();
        sizes.push_back(bounding_box(posed).sizes());
        printings.push_back(std::move(printing));
    }
    const auto places = places_in_rows(sizes, made.project->printer.bed_mm, room_in_rows_mm);
    const double bed = made.project->printer.bed_mm.x() + room_in_rows_mm;
    for (size_t i = 0; i < printings.size(); ++i) {
        Box3 box;
        for (const TriMesh& body : printings[i].bodies) box.extend(bounding_box(body));
        Vec3 to = places[i].at + Vec3(double(places[i].bed) * bed, 0, 0);
        Transform move = Transform::Identity();
        move.translation() = to - Vec3(box.center().x(), box.center().y(), box.min().z());
        for (TriMesh& body : printings[i].bodies) body = transformed(body, move);
        printings[i].supports = transformed(printings[i].supports, move);
    }
    if (printings.empty())
        return refuse(args.file, {ProblemCode::Geometry, "It has no printed part with a body.", ""}, 1);
    return 0;
}

/// All printings as one.
struct Result {
    TriMesh mesh;
    double area_mm2 = 0, mean_mm = 0, max_mm = 0, most_out_mm = 0, most_in_mm = 0, without_line_mm2 = 0;
    json fused = json::array(), droops = json::array();
    std::vector<std::string> words;
    size_t layers = 0;
};

void add(Result& result, const Printing& printing, const PracticePrint& print) {
    const double area = mass_properties(print.mesh).area_mm2;
    if (area > 0) result.mean_mm = (result.mean_mm * result.area_mm2 + print.mean_mm * area) / (result.area_mm2 + area);
    result.area_mm2 += area;
    result.max_mm = std::max(result.max_mm, print.max_mm);
    result.most_out_mm = std::max(result.most_out_mm, print.most_out_mm);
    result.most_in_mm = std::max(result.most_in_mm, print.most_in_mm);
    result.without_line_mm2 += print.without_line_mm2;
    result.layers = std::max(result.layers, print.layers);
    std::vector<std::string> names;
    for (size_t i = 0; i < printing.bodies.size(); ++i) names.push_back(printing.body_name(i));
    for (std::string& sentence : practice_words(printing.name, names, print))
        result.words.push_back(std::move(sentence));
    for (const FusedBodies& fused : print.fused)
        for (const auto& [first, last] : fused.layers)
            result.fused.push_back(
                {{"a", printing.body_name(fused.a)}, {"b", printing.body_name(fused.b)}, {"layers", {first, last}}});
    constexpr size_t told = 20;
    for (const Droop& droop : print.droops) {
        if (result.droops.size() < told)
            result.droops.push_back({{"at", point_json(droop.at)},
                                     {"droop_mm", number_json(droop.droop_mm)},
                                     {"span_mm", number_json(droop.span_mm)},
                                     {"lost", droop.lost}});
    }
    append(result.mesh, print.mesh);
}

void print_words(const PracticeArgs& args, const Result& result, const PracticeModel& model) {
    std::cout << args.out << ": printed in practice in " << result.layers << " layers\n";
    for (const std::string& sentence : result.words) std::cout << "  " << sentence << "\n";
    std::cout << "The practice printer assumes:\n";
    for (const std::string& sentence : practice_assumptions(model)) std::cout << "  " << sentence << "\n";
}

} // namespace

int practice_command(const PracticeArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    auto sensible = [](const std::optional<double>& value, double least, double most) {
        return !value || (*value >= least && *value <= most);
    };
    if (!sensible(args.growth, -1, 2) || !sensible(args.flare, 0, 5))
        return usage("growth is -1 to 2 mm, flare 0 to 5 mm.");
    if (!sensible(args.layer_height, 0.02, 2)) return usage("a layer is 0.02 to 2 mm high.");
    Task task = terminal_task();
    std::vector<Printing> printings;
    if (int status = printings_of(args, printings, task)) return status;
    Result result;
    for (const Printing& printing : printings) {
        auto print = practice_print(printing.bodies, printing.supports, printing.options, task);
        if (!print) return refuse(args.file, print.error(), 1);
        add(result, printing, *print);
    }
    if (result.mesh.empty())
        return refuse(args.file, {ProblemCode::Geometry, "All of it is too thin for a line: nothing was laid.", ""}, 1);
    if (auto failed = write_mesh_file(args.out, result.mesh, std::filesystem::path(args.out).stem().string()))
        return refuse(args.out, *failed, 1);
    if (!common.json) {
        print_words(args, result, printings.front().options.model);
        return 0;
    }
    InspectionOptions options;
    options.walls = true;
    const Inspection inspection = inspect(result.mesh, options, task);
    json out =
        inspection_json(args.out, written_format(args.out)->id, inspection, count_islands(inspection, options, task),
                        gap_between_shells(inspection.soundness, task));
    out["deviation_mean_mm"] = number_json(result.mean_mm);
    out["deviation_max_mm"] = number_json(result.max_mm);
    out["deviation_out_mm"] = number_json(result.most_out_mm);
    out["deviation_in_mm"] = number_json(result.most_in_mm);
    out["fused"] = result.fused;
    out["droops"] = result.droops;
    out["layers"] = result.layers;
    out["without_line_mm2"] = number_json(result.without_line_mm2);
    out["assumes"] = practice_assumptions(printings.front().options.model);
    print_json(out);
    return 0;
}

} // namespace lp::cli
