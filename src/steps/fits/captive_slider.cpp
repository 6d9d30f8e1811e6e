// A dovetail that slides in a frame and cannot leave it. It stands as it is printed, and nothing in it hangs beyond the
// limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

/// A dovetail in a frame, stops at both ends: slides along x, cannot leave.
Expected<StepResult> make_slider(const std::vector<StepBody>& before, const StepContext& context) {
    const double width = context.number("slider_width"), height = context.number("height"),
                 len = context.number("slider_length"), travel = context.number("travel"),
                 wall = context.number("wall");
    const double lean = height * std::tan(radians(steepest(context, 20, 45))) / 2;
    if (auto thin = check_pin(context, "slider's top", width - 2 * lean)) return pass_on(*thin);
    auto gap = joint_gap(context, lean * 0.6);
    if (!gap) {
        Problem why = gap.error();
        if (why.code == ProblemCode::Range)
            why.advice += " The flanks lean " + in_mm(lean) + " in: a wider gap lets it out.";
        return pass_on(why);
    }
    const double g = *gap, half = width / 2;
    // The section in y and z, drawn along x: wide at the foot. Half way up it is `width` across.
    std::vector<Vec2> section{{-half - lean, 0}, {half + lean, 0}, {half - lean, height}, {-half + lean, height}};
    Transform along = Transform::Identity();
    along.linear() = Eigen::Matrix3d{{0, 0, 1}, {1, 0, 0}, {0, 1, 0}}; // drawn x to y, y to z, raised along x
    auto slider = raised_profile(section, len, 0, along, context, 1);
    Transform room = along;
    room.pretranslate(Vec3(-g, 0, 0));
    auto hollow = raised_profile(section, len + travel + 2 * g, g, room, context, 2);
    Transform near = along;
    near.pretranslate(Vec3(-g, 0, 0));
    auto envelope = raised_profile(section, len + 2 * g, g, near, context, 4);
    double side = half + lean + g * 2 + wall;
    auto frame = joint_block({-g - wall, -side, 0}, {len + travel + g + wall, side, height}, context, 3);
    for (auto* body : {&slider, &hollow, &envelope, &frame})
        if (!*body) return pass_on(*body);
    auto open = without(*frame, {*hollow}, context);
    if (!open) return pass_on(open);
    std::vector<StepBody> made{{{}, piece_name(context, "slider"), *slider, {}},
                               {{}, piece_name(context, "frame"), *open, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *envelope});
    return stand_joint(before, std::move(made),
                       "Print it flat. It slides " + in_mm(travel) + " along; the flanks hold it by " +
                           in_mm(lean - g) + ".",
                       context);
}

} // namespace

StepKind captive_slider_kind() {
    StepKind kind = joint_kind(
        "captive_slider", "Captive slider", "A dovetail that slides in a frame and cannot leave it.",
        {joint_length("slider_length", "15 mm", "of the slider"), joint_length("slider_width", "10 mm", "half way up"),
         joint_length("height", "5 mm", "of both"), joint_length("travel", "20 mm", "how far it slides"),
         joint_length("wall", "3 mm", "of the frame")});
    kind.sentence = std::string("Captive slider {slider_length} long, {slider_width} wide and {height} high, sliding "
                                "{travel} in a frame with walls of {wall}") +
                    joint_standing;
    kind.group = StepGroup::Fits;
    kind.synonyms = {"dovetail", "slide"};
    kind.evaluate = make_slider;
    return kind;
}

} // namespace lp
