#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/step_kind.h"

namespace lp {

StepKind block_kind() {
    StepKind kind;
    kind.id = "block";
    kind.title = "Block";
    kind.purpose = "A box with square corners.";
    kind.fields = {{"size_x", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "width"},
                   {"size_y", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "depth"},
                   {"size_z", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "height"}};
    for (StepField& field : placing_fields())
        if (field.name != "along") kind.fields.push_back(field);
    // A block is often measured from its corner.
    for (StepField& field : kind.fields)
        if (field.name == "from") field.choices.push_back("corner");
    kind.sentence = "Block {size_x} by {size_y}, {size_z} high, {from} at {at_x}, {at_y}, {at_z}[ on {on}], {does}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double g = context.growth_mm;
        Vec3 size(context.number("size_x"), context.number("size_y"), context.number("size_z"));
        bool corner = context.word("from") == "corner";
        return place_solid(before, context, corner ? g : origin_drop(context, size.z()), [&](Transform at) {
            at.translate(corner ? Vec3(-g, -g, 0) : Vec3(-size.x() / 2 - g, -size.y() / 2 - g, 0));
            return make_block(size + Vec3::Constant(2 * g), at, {context.step_id, context.copy});
        });
    };
    return kind;
}

} // namespace lp
