// A foot with any number of sides, rising to a point or a smaller top.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind pyramid_kind() {
    StepKind kind =
        profile_solid("pyramid", "Pyramid", "A foot with any number of sides, rising to a point or a smaller top.",
                      {{"sides", FieldKind::Count, "4", 3, 360, {}, "of the foot"},
                       solid_length("across", "20 mm", "of the foot, over flats"),
                       solid_length("height", "15 mm", "of the top"),
                       solid_length("top_across", "0 mm", "of the top, over flats; 0 for a point", 0)});
    kind.sentence =
        std::string("Pyramid with {sides} sides, {across} across, {height} high[, {top_across} across on top],") +
        profile_solid_place;
    kind.group = StepGroup::Solids;
    kind.synonyms = {"spike"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int sides = int(std::lround(context.number("sides")));
        double a = context.number("across") / 2, b = context.number("top_across") / 2, h = context.number("height"),
               g = context.growth_mm;
        if (b > a - 1e-6)
            return problem(ProblemCode::Range, "A pyramid is narrower on top than at its foot.",
                           "Use a prism, or turn it over.");
        return place_solid(before, context, 0,
                           [&](const Transform& at) -> Expected<Body> {
                               // Walls lean by this angle; growing moves them out along their normals and the flat ends
                               // along the axis.
                               double lean = (a - b) / h, out = g * std::sqrt(1 + lean * lean),
                                      foot = a + lean * g + out;
                               double full = foot / lean, wanted = h + 2 * g,
                                      height = b < 1e-9 && g <= 0 ? full : std::min(wanted, full);
                               bool point = height >= full - 1e-6;
                               Transform low = at;
                               low.translate(Vec3(0, 0, -g));
                               return make_pyramid(sides, foot, point ? 0 : foot - lean * height, point ? full : height,
                                                   low, context.source());
                           },
                           {height_handle(context, "height"), diameter_handle("across", 0)});
    };
    return kind;
}

} // namespace lp
