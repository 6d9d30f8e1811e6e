// poses: how else a part, or every printed part of a project, could lie on the bed.
#include "base/quantity.h"
#include "bed/poses.h"
#include "cli/made_project.h"
#include "formats/formats.h"
#include "mesh/soundness.h"
#include "project/analysis.h"
#include "project/joint_gaps.h"
#include "project/marked_faces.h"
#include <iostream>
#include <nlohmann/json.hpp>

namespace lp::cli {

using nlohmann::json;

namespace {

json pose_json(const Pose& pose) {
    return {{"up", point_json(pose.up)},
            {"support_volume_mm3", number_json(pose.support_volume_mm3)},
            {"overhang_area_mm2", number_json(pose.overhang_area_mm2)},
            {"height_mm", number_json(pose.height_mm)},
            {"footprint_mm2", number_json(pose.footprint_mm2)},
            {"tips_over", pose.tips_over},
            {"score", number_json(pose.score)}};
}

void print_poses(const std::string& name, const std::vector<Pose>& poses) {
    std::cout << name << "\n";
    for (const Pose& pose : poses)
        std::cout << "  up " << format_number(pose.up.x(), 3) << ", " << format_number(pose.up.y(), 3) << ", "
                  << format_number(pose.up.z(), 3) << ": " << format_number(pose.support_volume_mm3 / 1000, 2)
                  << " cm³ of supports, " << format_number(pose.overhang_area_mm2, 1) << " mm² hang, "
                  << format_number(pose.height_mm, 1) << " mm high, stands on " << format_number(pose.footprint_mm2, 1)
                  << " mm²" << (pose.tips_over ? ", tips over" : "") << (pose.fits_bed ? "" : ", too large for the bed")
                  << "\n";
}

int poses_of_project(const PosesArgs& args, const PoseOptions& asked, const Common& common) {
    Task task = terminal_task();
    MadeProject made;
    if (int status = made_project({args.file, {}, {}}, made, task)) return status;
    PoseOptions options = asked;
    options.bed_mm = made.project->printer.bed_mm;
    if (!args.overhang_limit) options.overhang_limit_deg = made.project->printer.overhang_limit_deg;
    json all = json::array(), parts = json::array();
    for (size_t i = 0; i < made.project->parts.size(); ++i) {
        const Part& part = *made.project->parts[i];
        const PartResult& result = made.evaluation.parts[i];
        if (part.stand_in || !result.mesh) continue;
        options.marks = find_marks(part, result).facets;
        options.joints = area_vectors(joint_gaps(result, task));
        auto poses = best_poses(*result.mesh, options, task);
        if (!poses) return refuse(args.file, poses.error(), 1);
        json list = json::array();
        for (const Pose& pose : *poses) {
            list.push_back(pose_json(pose));
            all.push_back(list.back());
            all.back()["part"] = part.name;
        }
        parts.push_back({{"name", part.name}, {"poses", std::move(list)}});
        if (!common.json) print_poses(part.name, *poses);
    }
    if (common.json) print_json({{"poses", std::move(all)}, {"parts", std::move(parts)}});
    return failed_status(args.file, made);
}

} // namespace

int poses_command(const PosesArgs& args, const Common& common) {
    PoseOptions options;
    if (args.overhang_limit) options.overhang_limit_deg = *args.overhang_limit;
    if (!(options.overhang_limit_deg >= 0 && options.overhang_limit_deg <= 90))
        return usage("the limit is 0 to 90 degrees.");
    if (args.top < 1 || args.top > 100) return usage("the number of poses is 1 to 100.");
    options.best = size_t(args.top);
    if (is_project(args.file)) return poses_of_project(args, options, common);
    auto read = read_mesh_file(args.file);
    if (!read) return refuse(args.file, read.error(), 3);
    Task task = terminal_task();
    const Soundness sound = check_soundness(read->mesh, {.self_intersections = false}, task);
    auto poses = best_poses(sound.kept, options, task);
    if (!poses) return refuse(args.file, poses.error(), 1);
    if (!sound.closed)
        std::cerr << "loose-peg-cli: " << args.file
                  << ": it is not closed: what it weighs and where, and so whether it tips, may be off.\n";
    if (common.json) {
        json list = json::array();
        for (const Pose& pose : *poses) list.push_back(pose_json(pose));
        print_json({{"poses", std::move(list)}});
    } else {
        print_poses(args.file, *poses);
    }
    return 0;
}

} // namespace lp::cli
