// Aligns bodies by their boxes to an anchor that stays.
#include "base/tolerance.h"
#include "steps/pick_bodies.h"
#include "steps/placing/moving.h"

namespace lp {
namespace {

Box3 box_of(const std::vector<StepBody>& bodies, const std::vector<size_t>& which) {
    Box3 box;
    for (size_t i : which) box.extend(bodies[i].body.box());
    return box;
}

/// How far to go along an axis: "min", "centre" and "max" line both boxes up there; "before" and "after" put one beside
/// the other.
double along_axis(const std::string& how, double low, double high, double to_low, double to_high) {
    if (how == "min") return to_low - low;
    if (how == "centre") return (to_low + to_high - low - high) / 2;
    if (how == "max") return to_high - high;
    if (how == "before") return to_low - high;
    if (how == "after") return to_high - low;
    return 0;
}

} // namespace

StepKind align_kind() {
    StepKind kind;
    kind.id = "align";
    kind.title = "Align";
    kind.purpose = "Moves bodies until their edges or middles line up with an anchor that stays.";
    const std::vector<std::string> ways{"as it is", "min", "centre", "max", "before", "after"};
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "", 0, 0, {}, "bodies that move, as one"},
                   {"to", FieldKind::Bodies, "origin", 0, 0, {"origin"}, "the anchor: bodies, or origin"},
                   {"x", FieldKind::Choice, "as it is", 0, 0, ways, "left sides, middles, right sides; beside it"},
                   {"y", FieldKind::Choice, "as it is", 0, 0, ways, "fronts, middles, backs; beside it"},
                   {"z", FieldKind::Choice, "as it is", 0, 0, ways, "bottoms, middles, tops; below or above it"},
                   {"gap", FieldKind::Length, "0 mm", -far, far, {}, "left free where it goes beside"}};
    kind.sentence = "Align {what} to {to}: x {x}, y {y}, z {z}[, {gap} apart]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"centre", "line", "up"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "align");
        if (!chosen) return pass_on(chosen);
        if (context.nominal) return move_as_one(before, *chosen, context.nominal->plane);
        Box3 anchor(Vec3(0, 0, 0), Vec3(0, 0, 0));
        if (context.word("to") != "origin") {
            auto to = pick_bodies(before, context.word("to"), "align to");
            if (!to) return pass_on(to);
            for (size_t i : *to)
                if (std::find(chosen->begin(), chosen->end(), i) != chosen->end())
                    return problem(ProblemCode::Wording, "A body cannot be aligned to itself.",
                                   "Name the body that moves, and another that stays.");
            anchor = box_of(before, *to);
        }
        Box3 box = box_of(before, *chosen);
        Transform move = Transform::Identity();
        const char* names[] = {"x", "y", "z"};
        bool any = false;
        for (int k = 0; k < 3; ++k) {
            const std::string& how = context.word(names[k]);
            any = any || how != "as it is";
            move.translation()[k] = along_axis(how, box.min()[k], box.max()[k], anchor.min()[k], anchor.max()[k]);
            if (how == "before") move.translation()[k] -= context.number("gap");
            if (how == "after") move.translation()[k] += context.number("gap");
        }
        auto result = move_as_one(before, *chosen, move);
        if (result && !any) result->note = "No axis is aligned yet.";
        return result;
    };
    return kind;
}

} // namespace lp
