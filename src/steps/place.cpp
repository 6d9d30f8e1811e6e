// Move and turn: rigid, so they take a grown body along unchanged.
#include "base/tolerance.h"
#include "steps/pick_bodies.h"
#include "steps/step_bodies.h"

namespace lp {
namespace {

Expected<StepResult> place_all(const std::vector<StepBody>& before, const StepContext& context, const Transform& move) {
    auto chosen = pick_bodies(before, context.word("what"), "move");
    if (!chosen) return tl::make_unexpected(chosen.error());
    StepResult result{before, {}, {}};
    for (size_t i : *chosen) {
        if (context.cancelled()) return cancelled();
        auto body = moved_with_halos(before[i], move);
        if (!body) return tl::make_unexpected(body.error());
        result.bodies[i] = *body;
    }
    return result;
}

} // namespace

StepKind move_kind() {
    StepKind kind;
    kind.id = "move";
    kind.title = "Move";
    kind.purpose = "Shifts bodies by typed distances.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"by_x", FieldKind::Length, "0 mm", -far, far, {}, "to the right"},
                   {"by_y", FieldKind::Length, "0 mm", -far, far, {}, "to the back"},
                   {"by_z", FieldKind::Length, "0 mm", -far, far, {}, "up"}};
    kind.sentence = "Move {what} by {by_x}, {by_y}, {by_z}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        Transform move = Transform::Identity();
        move.translate(Vec3(context.number("by_x"), context.number("by_y"), context.number("by_z")));
        return place_all(before, context, move);
    };
    return kind;
}

StepKind turn_kind() {
    StepKind kind;
    kind.id = "turn";
    kind.title = "Turn";
    kind.purpose = "Turns bodies about an axis through a point.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"angle", FieldKind::Angle, "90 deg", -36000, 36000, {}, "counter-clockwise seen against the axis"},
                   {"axis", FieldKind::Choice, "z", 0, 0, {"x", "y", "z"}, "axis of the turn"},
                   {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                   {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                   {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"}};
    kind.sentence = "Turn {what} by {angle} about {axis} through {through_x}, {through_y}, {through_z}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        const std::string& axis = context.word("axis");
        Vec3 direction = axis == "x" ? Vec3::UnitX() : axis == "y" ? Vec3::UnitY() : Vec3::UnitZ();
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        Transform move = Transform::Identity();
        move.translate(through);
        move.rotate(Eigen::AngleAxisd(radians(context.number("angle")), direction));
        move.translate(-through);
        return place_all(before, context, move);
    };
    return kind;
}

} // namespace lp
