#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"

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
    kind.group = StepGroup::Solids;
    kind.synonyms = {"round", "rod", "disc", "hole", "boss", "bore"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 20},
                   {.when = Chosen::Face,
                    .place = 60,
                    .words = "Hole here",
                    .hint = "A round hole into this face",
                    .fields = {{"does", "cut"}, {"diameter", "4 mm"}, {"height", "11 mm"}},
                    .stands_there = true,
                    .any_body = true,
                    .drawing = "hole"},
                   {.when = Chosen::Face,
                    .place = 70,
                    .words = "Cylinder here",
                    .hint = "A round rod standing on this face",
                    .fields = {{"does", "join"}, {"diameter", "8 mm"}, {"height", "10 mm"}},
                    .stands_there = true,
                    .any_body = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double height = context.number("height");
        return place_solid(before, context, origin_drop(context, height),
                           [&](const Transform& at) {
                               return make_cylinder(context.number("diameter") / 2 + context.growth_mm,
                                                    height + 2 * context.growth_mm, at, context.source());
                           },
                           {height_handle(context, "height"), diameter_handle("diameter", height)});
    };
    return kind;
}

} // namespace lp
