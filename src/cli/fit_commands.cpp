// gaps, grow, gauge: what fits are made of.
#include "base/quantity.h"
#include "cli/made_project.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "mesh/grow.h"
#include "project/analysis.h"
#include "project/archive.h"
#include "project/edit.h"
#include "project/gauge_part.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

using nlohmann::json;

int gaps_command(const GapsArgs& args, const Common& common) {
    if (!(args.below >= 0)) return usage("--below is a length in mm.");
    struct Named {
        std::string name;
        std::shared_ptr<const MeasuredBody> body;
    };
    std::vector<Named> bodies;
    for (const std::string& file : args.files) {
        std::string stem = std::filesystem::path(file).filename().string();
        if (is_project(file)) {
            auto opened = open_project(file);
            if (!opened) return refuse(file, opened.error(), 3);
            Evaluator evaluator;
            auto evaluation = evaluator.evaluate(opened->history.now(), terminal_task());
            if (!evaluation) return refuse(file, evaluation.error(), 1);
            ContactLedger ledger;
            for (const Participant& who : participants(*evaluation))
                bodies.push_back({who.name, ledger.measured(*evaluation, who)});
            continue;
        }
        auto read = read_mesh_file(file);
        if (!read) return refuse(file, read.error(), 3);
        Soundness sound = check_soundness(read->mesh, {.self_intersections = false});
        auto shells = separate_bodies(sound);
        for (size_t i = 0; i < shells.size(); ++i) {
            bodies.push_back({shells.size() == 1 ? stem : stem + "#" + std::to_string(i + 1),
                              std::make_shared<const MeasuredBody>(std::move(shells[i]))});
        }
    }
    Task task = terminal_task();
    json pairs = json::array();
    for (size_t i = 0; i < bodies.size(); ++i)
        for (size_t j = i + 1; j < bodies.size(); ++j) {
            if (task.stopped()) return refuse(args.files.front(), cancelled().value(), 1);
            auto gap = measure_gap(*bodies[i].body, *bodies[j].body, args.below);
            if (!gap) continue;
            pairs.push_back({{"a", bodies[i].name},
                             {"b", bodies[j].name},
                             {"min_mm", number_json(gap->min_mm)},
                             {"at_a", point_json(gap->at_a)},
                             {"at_b", point_json(gap->at_b)},
                             {"touching", gap->touching},
                             {"overlap_mm3", gap->overlap_mm3}});
        }
    if (common.json) {
        print_json({{"pairs", pairs}});
        return 0;
    }
    for (const json& p : pairs) {
        std::cout << p["a"].get<std::string>() << " - " << p["b"].get<std::string>() << ": ";
        if (p["overlap_mm3"].get<double>() > 0)
            std::cout << "overlap " << format_number(p["overlap_mm3"].get<double>(), 2) << " mm³\n";
        else
            std::cout << format_number(p["min_mm"].get<double>(), 3) << " mm"
                      << (p["touching"].get<bool>() ? ", touching" : "") << "\n";
    }
    if (pairs.empty()) std::cout << "no two bodies are nearer than " << format_number(args.below) << " mm\n";
    return 0;
}

int grow_command(const GrowArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    if (!std::isfinite(args.by) || args.by == 0) return usage("--by is a length in mm other than 0.");
    auto read = read_mesh_file(args.in);
    if (!read) return refuse(args.in, read.error(), 3);
    Task task = terminal_task();
    auto grown = grow_mesh(read->mesh, args.by, {}, task);
    if (!grown) return refuse(args.in, grown.error(), 1);
    if (auto failed = write_mesh_file(args.out, grown->mesh, std::filesystem::path(args.out).stem().string()))
        return refuse(args.out, *failed, 1);
    Inspection inspection = inspect(grown->mesh, {}, task);
    if (common.json) {
        json result =
            inspection_json(args.out, written_format(args.out)->id, inspection, count_islands(inspection, {}, task),
                            gap_between_shells(inspection.soundness, task));
        result["largest_deviation_mm"] = grown->largest_deviation_mm;
        print_json(result);
    } else {
        print_inspection(args.out, inspection);
        std::cout << "  within " << format_fixed(grown->largest_deviation_mm, 3) << " mm of " << format_number(args.by)
                  << " mm all round, measured from both sides\n";
    }
    return 0;
}

int gauge_command(const GaugeArgs& args, const Common& common) {
    if (!written_format(args.out)) return usage("the output must end in " + written_titles() + ".");
    const GaugeContact* contact = find_gauge_contact(args.contact);
    if (!contact) return usage("--contact is peg, pin, slot, screw, thread or hinge.");
    GaugeLadder ladder{args.contact, args.size > 0 ? args.size : contact->standard_mm, args.from, args.to, args.count};
    auto part = gauge_part(ladder);
    if (!part) return usage(part.error().text());
    auto project = std::make_shared<Project>();
    auto added = apply_edit(*project, AddPart{*part});
    if (!added) return refuse(args.out, added.error(), 1);
    Task task = terminal_task();
    auto evaluation = Evaluator().evaluate(added->project, task);
    if (!evaluation) return refuse(args.out, evaluation.error(), 1);
    const PartResult& made = evaluation->parts.front();
    for (const StepOutcome& step : made.steps)
        if (!step.ok) return refuse(args.out, {ProblemCode::Geometry, step.says, ""}, 1);
    if (auto failed = write_mesh_file(args.out, *made.mesh, part->name)) return refuse(args.out, *failed, 1);
    PartFigures figures = figures_of(*evaluation, made.part, task);
    if (common.json) {
        Inspection inspection = inspect(*made.mesh, {}, task);
        json result =
            inspection_json(args.out, written_format(args.out)->id, inspection, count_islands(inspection, {}, task),
                            gap_between_shells(inspection.soundness, task));
        result["contact"] = args.contact;
        result["nominal_mm"] = ladder.nominal_mm;
        result["time_s"] = figures.time_s;
        result["gaps_mm"] = json::array();
        for (int k = 1; k <= ladder.count; ++k) result["gaps_mm"].push_back(ladder.gap_at(k));
        print_json(result);
        return 0;
    }
    std::cout << args.out << ": " << contact->title << " " << format_number(ladder.nominal_mm, 2) << " mm, "
              << ladder.count << " gaps a face:";
    for (int k = 1; k <= ladder.count; ++k) std::cout << " " << k << " = " << format_fixed(ladder.gap_at(k), 2);
    std::cout << " mm; about " << format_duration(figures.time_s) << " to print\n";
    return 0;
}

} // namespace lp::cli
