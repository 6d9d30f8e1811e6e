// A paraboloid on its flat side.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind dome_kind() {
    StepKind kind = profile_solid(
        "dome", "Dome", "A paraboloid on its flat side.",
        {solid_length("diameter", "30 mm", "across at the foot"), solid_length("height", "12 mm", "of its top")});
    kind.sentence = std::string("Dome {diameter} across, {height} high,") + profile_solid_place;
    kind.group = StepGroup::Solids;
    kind.synonyms = {"paraboloid", "cap"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double r = context.number("diameter") / 2, h = context.number("height");
        return place_solid(before, context, 0,
                           [&](const Transform& at) {
                               // z = h (1 - x^2 / r^2): a parabola is a quadratic Bezier curve, exactly.
                               std::vector<Curve> profile{Curve::line({0, 0}, {r, 0}),
                                                          Curve::quadratic({r, 0}, {r / 2, h}, {0, h}),
                                                          Curve::line({0, h}, {0, 0})};
                               return turned_profile(profile, context.growth_mm, at, context.source());
                           },
                           {height_handle(context, "height"), diameter_handle("diameter", 0)});
    };
    return kind;
}

} // namespace lp
