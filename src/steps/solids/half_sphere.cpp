// Half a ball on its flat side.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind half_sphere_kind() {
    StepKind kind = profile_solid("half_sphere", "Half-sphere", "Half a ball on its flat side.",
                                  {solid_length("diameter", "20 mm", "across")});
    kind.sentence = std::string("Half-sphere {diameter} across,") + profile_solid_place;
    kind.group = StepGroup::Solids;
    kind.synonyms = {"hemisphere", "dome"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        double r = context.number("diameter") / 2;
        return place_solid(before, context, 0,
                           [&](const Transform& at) {
                               std::vector<Curve> profile{Curve::line({0, 0}, {r, 0}),
                                                          Curve::arc({0, 0}, r, 0, std::numbers::pi / 2),
                                                          Curve::line({0, r}, {0, 0})};
                               return turned_profile(profile, context.growth_mm, at, context.source());
                           },
                           {diameter_handle("diameter", 0)});
    };
    return kind;
}

} // namespace lp
