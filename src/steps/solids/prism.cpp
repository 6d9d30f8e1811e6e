#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"
#include <numbers>

namespace lp {

StepKind prism_kind() {
    StepKind kind;
    kind.id = "prism";
    kind.title = "Prism";
    kind.purpose = "A regular prism: a nut, a hexagon rod, a column.";
    kind.fields = {
        {"sides", FieldKind::Count, "6", 3, 360, {}, "number of sides"},
        {"across", FieldKind::Length, "8 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "width"},
        {"measured", FieldKind::Choice, "flats", 0, 0, {"flats", "corners"}, "width across flats or across corners"},
        {"height", FieldKind::Length, "4 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "length of the axis"}};
    for (StepField& field : placing_fields()) kind.fields.push_back(field);
    kind.sentence = "Prism with {sides} sides, {across} across {measured}, {height} long, {from} at {at_x}, {at_y}, "
                    "{at_z}[ on {on}], along {along}, {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"hexagon", "hex", "nut", "polygon"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 30}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int sides = int(std::lround(context.number("sides")));
        double half = context.number("across") / 2, height = context.number("height");
        double apothem = context.word("measured") == "corners" ? half * std::cos(std::numbers::pi / sides) : half;
        return place_solid(before, context, origin_drop(context, height),
                           [&](const Transform& at) {
                               return make_prism(sides, apothem + context.growth_mm, height + 2 * context.growth_mm, at,
                                                 context.source());
                           },
                           {height_handle(context, "height"), diameter_handle("across", height)});
    };
    return kind;
}

} // namespace lp
