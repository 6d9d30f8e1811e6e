#include "project/pose_choices.h"
#include "base/quantity.h"
#include "base/text.h"
#include "layers/layer_plan.h"
#include "project/joint_gaps.h"
#include "project/lying_holes.h"
#include "project/marked_faces.h"

namespace lp {

/// The way along which all that bends does; none where there are several. Bending pulls along it.
static std::optional<Vec3> bending_way(const PartResult& made) {
    std::optional<Vec3> way;
    for (const StepBody& body : made.bodies)
        for (const Bending& bend : body.bends) {
            constexpr double parallel = 0.98;
            if (way && std::fabs(way->dot(bend.along)) < parallel) return std::nullopt;
            if (!way) way = bend.along;
        }
    return way;
}

PoseOptions pose_options(const Evaluation& evaluation, const Part& part, const PartResult& made) {
    PoseOptions options;
    options.overhang_limit_deg = evaluation.project->printer.overhang_limit_deg;
    options.bed_mm = evaluation.project->printer.bed_mm;
    options.lies_up = Vec3(pose_of_part(part, made, evaluation.values).linear().transpose() * Vec3::UnitZ());
    options.marks = find_marks(part, made).facets;
    options.weights = evaluation.project->pose_weights;
    options.bores = bore_axes(made);
    options.joints = area_vectors(joint_gaps(made));
    options.load = part.load ? part.load : bending_way(made);
    return options;
}

Expected<std::vector<PoseChoice>> pose_choices(const Evaluation& evaluation, PartId id, const Task& task) {
    const PartResult* made = evaluation.part(id);
    const PartPtr part = evaluation.project->part(id);
    if (!made || !part || !made->mesh)
        return problem(ProblemCode::Missing, "There is no body to lay on the bed.", "Choose a part that has one.");
    const Transform lies = pose_of_part(*part, *made, evaluation.values);
    const PoseOptions options = pose_options(evaluation, *part, *made);
    task.tell("Comparing ways up", 0);
    auto poses = best_poses(*made->mesh, options, task);
    if (!poses) return pass_on(poses);
    std::vector<PoseChoice> choices;
    for (const Pose& pose : *poses) {
        task.tell("Comparing ways up", 0.2 + 0.8 * double(choices.size()) / double(poses->size()));
        PoseChoice choice{.pose = pose,
                          .marked = !options.marks.of.empty(),
                          .bored = !options.bores.empty(),
                          .jointed = !options.joints.empty(),
                          .loaded = options.load.has_value(),
                          .problem = {}};
        const Transform way = pose.as_it_lies ? lies : pose_transform(*made->mesh, -pose.up, Vec3::Zero());
        const TriMesh posed = transformed(*made->mesh, way);
        // With supports, whether they are on or not: what it would take to print it so.
        const TriMesh supports =
            make_supports(posed, support_options(*evaluation.project, *part), task, {options.marks, {}}).mesh;
        if (!supports.empty()) choice.supports_mm3 = mass_properties(supports).volume_mm3;
        const auto plan = plan_layers(posed, supports, layer_options(evaluation, *part, way), task);
        if (task.stopped()) return cancelled();
        if (plan) {
            choice.time_s = plan->time_s;
            choice.mass_g = plan->mass_g;
        } else {
            choice.problem = plan.error().text();
        }
        choices.push_back(std::move(choice));
    }
    return choices;
}

std::string why_first(const std::vector<PoseChoice>& choices) {
    if (choices.empty()) return "";
    const PoseChoice& first = choices.front();
    if (first.pose.as_it_lies) return "It lies best as it is.";
    const auto now =
        std::find_if(choices.begin(), choices.end(), [](const PoseChoice& c) { return c.pose.as_it_lies; });
    if (now == choices.end()) return "";
    std::vector<std::string> reasons;
    auto cm3 = [](double mm3) { return format_number(mm3 / 1000, mm3 < 10000 ? 1 : 0) + " cm³"; };
    auto cm2 = [](double mm2) { return format_number(mm2 / 100, 1) + " cm²"; };
    if (now->pose.tips_over && !first.pose.tips_over) reasons.push_back("it does not tip over");
    if (!now->pose.fits_bed && first.pose.fits_bed) reasons.push_back("it fits the bed");
    if (now->pose.kept_off_mm2 - first.pose.kept_off_mm2 > 25)
        reasons.push_back(first.pose.kept_off_mm2 < 1 ? "nothing hangs where no support may stand"
                                                      : format_number(first.pose.kept_off_mm2 / 100, 1) +
                                                            " cm² hang where no support may stand instead of " +
                                                            format_number(now->pose.kept_off_mm2 / 100, 1));
    if (now->pose.rough_marked_mm2 - first.pose.rough_marked_mm2 > 25)
        reasons.push_back(
            (first.pose.rough_marked_mm2 < 1 ? std::string("nothing") : cm2(first.pose.rough_marked_mm2)) +
            " of the marked faces is rough (now " + cm2(now->pose.rough_marked_mm2) + ")");
    if (now->pose.joints_hang_mm2 - first.pose.joints_hang_mm2 > joint_hangs_from_mm2)
        reasons.push_back(first.pose.joints_hang_mm2 < joint_hangs_from_mm2 ? "the gap of its joint does not hang"
                                                                            : "less of its joint's gap hangs");
    if (now->pose.load_across - first.pose.load_across > 0.3)
        reasons.push_back(first.pose.load_across < 0.3 ? "the load runs along the layers"
                                                       : "less of the load pulls the layers apart");
    if (now->supports_mm3 - first.supports_mm3 > 50)
        reasons.push_back(first.supports_mm3 < 50 ? "it needs no supports (now " + cm3(now->supports_mm3) + ")"
                                                  : "it needs " + cm3(first.supports_mm3) + " of supports instead of " +
                                                        cm3(now->supports_mm3));
    if (now->pose.overhang_area_mm2 - first.pose.overhang_area_mm2 > 25)
        reasons.push_back(first.pose.overhang_area_mm2 < 1
                              ? "nothing hangs (now " + format_number(now->pose.overhang_area_mm2 / 100, 1) + " cm²)"
                              : format_number(first.pose.overhang_area_mm2 / 100, 1) + " cm² hang instead of " +
                                    format_number(now->pose.overhang_area_mm2 / 100, 1));
    if (now->pose.lying_bores > first.pose.lying_bores)
        reasons.push_back(first.pose.lying_bores == 0
                              ? "its round holes stand"
                              : counted(now->pose.lying_bores - first.pose.lying_bores, "round hole", "round holes") +
                                    " fewer lie");
    if (first.pose.footprint_mm2 > 1.5 * now->pose.footprint_mm2 + 10)
        reasons.push_back("it stands on " + format_number(first.pose.footprint_mm2 / 100, 1) + " cm² instead of " +
                          format_number(now->pose.footprint_mm2 / 100, 1));
    if (now->pose.height_mm - first.pose.height_mm > 5)
        reasons.push_back("it is " + format_number(now->pose.height_mm - first.pose.height_mm, 0) + " mm lower");
    if (reasons.empty()) return "The first costs a little less than how it lies now.";
    std::string sentence = "The first, because ";
    for (size_t i = 0; i < reasons.size() && i < 3; ++i)
        sentence += (i == 0 ? "" : i + 1 == std::min<size_t>(reasons.size(), 3) ? " and " : ", ") + reasons[i];
    return sentence + ".";
}

PrintPose pose_with_up(const Vec3& up) {
    PrintPose pose;
    pose.down = -up.normalized();
    for (int k = 0; k < 3; ++k) // what a direction of a flat face owes to rounding
        if (std::fabs(pose.down[k]) < 1e-9) pose.down[k] = 0;
    pose.down.normalize();
    return pose;
}

} // namespace lp
