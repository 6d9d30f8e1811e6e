// A pin that turns in a collar and cannot leave it. It stands as it is printed, and nothing in it hangs beyond the
// limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

/// A pin that turns in a collar and cannot leave it: a double cone half way up.
Expected<StepResult> make_pin(const std::vector<StepBody>& before, const StepContext& context) {
    const double r = context.number("pin") / 2, height = context.number("height"), outer = context.number("collar") / 2;
    const double slope = std::tan(radians(steepest(context, 20, 70)));
    if (auto thin = check_pin(context, "pin", 2 * r)) return pass_on(*thin);
    const double bulge = context.number("bulge");
    auto gap = joint_gap(context, bulge * 0.75);
    if (!gap) return pass_on(gap);
    const double rise = bulge / slope, mid = height / 2;
    if (2 * rise > height - 4 * context.line_mm)
        return problem(ProblemCode::Range, "The bulge does not fit into the height of the pin.",
                       "Make the pin at least " + in_mm(2 * rise + 4 * context.line_mm) +
                           " high, or the bulge smaller.");
    if (outer < r + bulge + *gap * 1.5 + 2 * context.line_mm)
        return problem(ProblemCode::Range, "The collar has no wall left round the pin.",
                       "Make it at least " + in_mm(2 * (r + bulge + *gap * 1.5 + 2 * context.line_mm)) + " across.");
    std::vector<Vec2> profile{{0, 0},          {r, 0},      {r, mid - rise}, {r + bulge, mid},
                              {r, mid + rise}, {r, height}, {0, height}};
    const Transform home = Transform::Identity();
    auto pin = turned_profile(closed_line(profile), 0, home, context, 1);
    auto halo = turned_profile(closed_line(profile), *gap, home, context, 2);
    auto full = make_cylinder(outer, height, home, joint_tags(context, 3));
    for (auto* body : {&pin, &halo, &full})
        if (!*body) return pass_on(*body);
    auto collar = without(*full, {*halo}, context);
    if (!collar) return pass_on(collar);
    std::vector<StepBody> made{{{}, piece_name(context, "pin"), *pin, {}},
                               {{}, piece_name(context, "collar"), *collar, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), *gap, *halo});
    return stand_joint(before, std::move(made),
                       "Print it standing. The bulge holds the pin by " + in_mm(bulge - *gap) + " all round.", context);
}

} // namespace

StepKind captive_pin_kind() {
    StepKind kind = joint_kind("captive_pin", "Captive pin", "A pin that turns in a collar and cannot leave it.",
                               {joint_length("pin", "8 mm", "across"), joint_length("height", "12 mm", "of both"),
                                joint_length("collar", "20 mm", "across, outside"),
                                joint_length("bulge", "1.5 mm", "out, half way up")});
    kind.sentence =
        std::string("Captive pin {pin} across with a bulge of {bulge} in a collar {collar} across, {height} "
                    "high") +
        joint_standing;
    kind.group = StepGroup::Fits;
    kind.synonyms = {"axle", "pivot"};
    kind.evaluate = make_pin;
    return kind;
}

} // namespace lp
