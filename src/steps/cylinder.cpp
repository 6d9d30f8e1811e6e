#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/step_kind.h"

namespace lp {

StepKind cylinder_kind() {
    StepKind kind;
    kind.id = "cylinder";
    kind.title = "Cylinder";
    kind.purpose = "A round rod, disc or hole.";
    kind.fields = {
        {"diameter", FieldKind::Length, "10 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "across"},
        {"height",
         FieldKind::Length,
         "20 mm",
         tolerance::smallest_mm,
         tolerance::largest_mm,
         {},
         "length of the axis"}};
    for (StepField& field : placing_fields()) kind.fields.push_back(field);
    kind.sentence =
        "Cylinder {diameter} across, {height} long, {from} at {at_x}, {at_y}, {at_z}[ on {on}], along {along}, {does}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double height = context.number("height");
        return place_solid(before, context, origin_drop(context, height), [&](const Transform& at) {
            return make_cylinder(context.number("diameter") / 2 + context.growth_mm, height + 2 * context.growth_mm, at,
                                 {context.step_id, context.copy});
        });
    };
    return kind;
}

} // namespace lp
