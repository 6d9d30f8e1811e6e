#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"

namespace lp {

StepKind cone_kind() {
    StepKind kind;
    kind.id = "cone";
    kind.title = "Cone";
    kind.purpose = "A cone, or a taper with two diameters.";
    kind.fields = {
        {"diameter", FieldKind::Length, "20 mm", 0, tolerance::largest_mm, {}, "across at the foot"},
        {"top_diameter", FieldKind::Length, "0 mm", 0, tolerance::largest_mm, {}, "across at the top; 0 for a point"},
        {"height",
         FieldKind::Length,
         "20 mm",
         tolerance::smallest_mm,
         tolerance::largest_mm,
         {},
         "length of the axis"}};
    for (StepField& field : placing_fields()) kind.fields.push_back(field);
    kind.sentence = "Cone {diameter} across, tapering to {top_diameter} over {height}, {from} at {at_x}, {at_y}, "
                    "{at_z}[ on {on}], along {along}, {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"frustum", "funnel"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 50}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double g = context.growth_mm, h = context.number("height");
        double bottom = context.number("diameter") / 2, top = context.number("top_diameter") / 2;
        double drop = origin_drop(context, h), height = h + 2 * g;
        if (g != 0) {
            // The slanted wall moves out by g along its normal, the discs by g along the axis: at height z the wall of
            // a cone r(z) = bottom + s z then stands at r(z) + g sqrt(1 + s^2) (plane geometry).
            double s = (top - bottom) / h, out = g * std::sqrt(1 + s * s);
            double grown_bottom = bottom - s * g + out, grown_top = top + s * g + out;
            // Where the wall meets the axis before the disc does, the point is the end.
            if (grown_top < 0) {
                height = g - (bottom + out) / s;
                grown_top = 0;
            }
            if (grown_bottom < 0) {
                double foot = -(bottom + out) / s; // height above the old foot at which the radius is 0
                drop = drop - g - foot;
                height = h + g - foot;
                grown_bottom = 0;
            }
            bottom = grown_bottom;
            top = grown_top;
        }
        return place_solid(
            before, context, drop,
            [&](const Transform& at) { return make_cone(bottom, top, height, at, context.source()); },
            {height_handle(context, "height"), diameter_handle("diameter", 0), diameter_handle("top_diameter", h)});
    };
    return kind;
}

} // namespace lp
