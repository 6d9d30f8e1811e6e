#include "project/split_comparison.h"
#include "base/quantity.h"
#include "bed/pose.h"
#include "project/edit.h"
#include "project/pose_choices.h"

namespace lp {
namespace {

/// Adds what a mesh takes in its best way up; nothing where it cannot be laid.
bool add(const Project& project, const Part& part, PoseOptions options, const TriMesh& mesh, PrintedWay& all,
         const Task& task) {
    options.best = 1;
    options.lies_up.reset();
    options.marks = {}; // of the part's own mesh, not of its pieces
    const auto poses = best_poses(mesh, options, task);
    if (!poses || poses->empty()) return false;
    const TriMesh posed = transformed(mesh, pose_transform(mesh, -poses->front().up, Vec3::Zero()));
    const TriMesh supports = make_supports(posed, support_options(project, part), task).mesh;
    const auto plan = plan_layers(posed, supports, layer_options(project, part), task);
    if (!plan) return false;
    if (!supports.empty()) all.supports_mm3 += mass_properties(supports).volume_mm3;
    all.time_s += plan->time_s;
    all.mass_g += plan->mass_g;
    return true;
}

bool all_made(const PartResult& made) {
    return std::all_of(made.steps.begin(), made.steps.end(), [](const StepOutcome& s) { return s.ok; });
}

std::string words_of(const PrintedWay& way) {
    static const char* const numbers[] = {"no",  "one",   "two",   "three", "four", "five",
                                          "six", "seven", "eight", "nine",  "ten"};
    std::string count = way.pieces < std::size(numbers) ? numbers[way.pieces] : std::to_string(way.pieces);
    return count + (way.pieces == 1 ? " piece " : " pieces ") + (way.supports_mm3 < 1 ? "without" : "with") +
           " supports: " + format_number(way.mass_g, way.mass_g < 10) + " g, " + format_duration(way.time_s);
}

} // namespace

std::optional<SplitComparison> compare_split(const Evaluation& evaluation, PartId id, const Task& task) {
    const PartResult* made = evaluation.part(id);
    const PartPtr part = evaluation.project->part(id);
    if (!made || !part || made->bodies.size() < 2 || !all_made(*made)) return std::nullopt;
    Edit off;
    for (const Step& step : part->steps)
        if (step.kind == "split" && step.on) off.parts.emplace_back(SwitchStep{id, step.id, false});
    if (off.parts.empty()) return std::nullopt;
    const auto edited = apply_edit(*evaluation.project, off);
    if (!edited) return std::nullopt;
    const auto without = Evaluator().evaluate(edited->project, task);
    const PartResult* one = without ? without->part(id) : nullptr;
    if (!one || !one->mesh || one->bodies.size() >= made->bodies.size() || !all_made(*one)) return std::nullopt;
    const PoseOptions options = pose_options(evaluation, *part, *made);
    SplitComparison comparison{{.pieces = one->bodies.size()}, {.pieces = made->bodies.size()}};
    if (!add(*evaluation.project, *part, options, *one->mesh, comparison.whole, task)) return std::nullopt;
    for (const StepBody& body : made->bodies)
        if (!add(*evaluation.project, *part, options, body.body.tessellation().mesh, comparison.split, task))
            return std::nullopt;
    return comparison;
}

std::string split_words(const SplitComparison& comparison) {
    std::string words = words_of(comparison.whole) + "; " + words_of(comparison.split) + ".";
    words[0] = char(std::toupper(static_cast<unsigned char>(words[0])));
    return words;
}

} // namespace lp
