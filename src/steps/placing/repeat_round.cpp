// Repeats round an axis.
#include "base/text.h"
#include "base/tolerance.h"
#include "steps/placing/repeating.h"

namespace lp {
namespace {

Vec3 axis_named(const std::string& name) {
    return name == "x" ? Vec3::UnitX() : name == "y" ? Vec3::UnitY() : Vec3::UnitZ();
}

Affine turn_about(const Vec3& axis, const Vec3& through, double angle_deg) {
    Affine t = Affine::Identity();
    t.translate(through);
    t.rotate(Eigen::AngleAxisd(radians(angle_deg), axis));
    t.translate(-through);
    return t;
}

} // namespace

StepKind repeat_round_kind() {
    StepKind kind;
    kind.id = "repeat_round";
    kind.title = "Repeat round";
    kind.purpose = "Copies what steps made, or bodies, round an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = repeating_fields(
        {StepField{"count", FieldKind::Count, "6", 1, 100000, {}, "with the original"}.as(FieldRole::Count),
         {"angle", FieldKind::Angle, "360 deg", -3600, 3600, {}, "over which they are spread; 360: all the way round"},
         {"axis", FieldKind::Choice, "z", 0, 0, {"x", "y", "z"}, "axis they go round"},
         {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
         {"attitude",
          FieldKind::Choice,
          "turning",
          0,
          0,
          {"turning", "kept"},
          "they turn with the axis, or stay upright"}});
    kind.sentence = std::string(repeated_words) +
                    " {count} time|times over {angle} round {axis}[ through {through_x}, {through_y}, {through_z}]"
                    "[, {attitude}][, without {drop}][, {does}][, many: {many}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"pattern", "array", "circular", "polar"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        Vec3 axis = axis_named(context.word("axis"));
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        double angle = context.number("angle"), count = context.number("count");
        bool round = std::fabs(std::fabs(angle) - 360) < 1e-9;
        double step = count < 2 ? 0 : angle / (round ? count : count - 1);
        if (count > 1 && std::fabs(std::remainder(step, 360)) < 1e-6)
            return problem(ProblemCode::Range, "All copies would lie in one place.", "Give them an angle.");
        Vec3 centre = Vec3::Zero(); // of what is repeated: kept upright, it is this point that goes round
        if (!before.empty()) centre = before.front().body.box().center();
        if (context.word("attitude") == "kept" && context.tools_of)
            if (auto names = listed(context.word("steps"), ','); !names.empty())
                if (auto id = context.step_named ? context.step_named(names[0]) : std::nullopt)
                    if (auto tools = context.tools_of(*id); !tools.empty())
                        if (auto body = tools[0].body()) centre = body->box().center();
        std::vector<Affine> places;
        for (int k = 1; k < int(count); ++k) {
            Affine turn = turn_about(axis, through, step * k);
            if (context.word("attitude") == "kept") turn = Affine(Eigen::Translation3d(turn * centre - centre));
            places.push_back(turn);
        }
        return repeat_at(before, context, std::move(places));
    };
    return kind;
}

} // namespace lp
