#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"

namespace lp {

StepKind sphere_kind() {
    StepKind kind;
    kind.id = "sphere";
    kind.title = "Sphere";
    kind.purpose = "A ball.";
    kind.fields = {
        {"diameter", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "across"}};
    for (StepField& field : placing_fields({.along = false, .from_standard = "centre"})) kind.fields.push_back(field);
    kind.sentence = "Sphere {diameter} across, {from} at {at_x}, {at_y}, {at_z}[ on {on}], {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"ball"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 70}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double radius = context.number("diameter") / 2;
        double drop = context.word("from") == "centre" ? 0 : -radius;
        return place_solid(
            before, context, drop,
            [&](const Transform& at) { return make_sphere(radius + context.growth_mm, at, context.source()); },
            {diameter_handle("diameter", 0)});
    };
    return kind;
}

} // namespace lp
