// Turns bodies about an axis through a point.
#include "base/tolerance.h"
#include "steps/placing/moving.h"

namespace lp {

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
    kind.group = StepGroup::Placing;
    kind.synonyms = {"rotate"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        const std::string& axis = context.word("axis");
        Vec3 direction = axis == "x" ? Vec3::UnitX() : axis == "y" ? Vec3::UnitY() : Vec3::UnitZ();
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        Transform move = Transform::Identity();
        move.translate(through);
        move.rotate(Eigen::AngleAxisd(radians(context.number("angle")), direction));
        move.translate(-through);
        auto result = move_chosen(before, context, move);
        if (!result) return result;
        Box3 box;
        for (const StepBody& b : result->bodies) box.extend(b.body.box());
        if (!box.isEmpty()) // beside the middle of what turns
            through += direction * direction.dot(box.center() - through);
        result->handles = {{"angle", SizeHandle::Shape::Dial, through, direction, 1}};
        return result;
    };
    return kind;
}

} // namespace lp
