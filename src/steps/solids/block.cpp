#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/solids/placed_solid.h"

namespace lp {

StepKind block_kind() {
    StepKind kind;
    kind.id = "block";
    kind.title = "Block";
    kind.purpose = "A box with square corners.";
    kind.fields = {{"size_x", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "width"},
                   {"size_y", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "depth"},
                   {"size_z", FieldKind::Length, "20 mm", tolerance::smallest_mm, tolerance::largest_mm, {}, "height"}};
    // A block is often measured from its corner.
    for (StepField& field : placing_fields({.along = false, .from = {"foot", "centre", "corner"}}))
        kind.fields.push_back(field);
    kind.sentence = "Block {size_x} by {size_y}, {size_z} high, {from} at {at_x}, {at_y}, {at_z}[ on {on}], {does}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"box", "cuboid", "cube"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 10},
                   {.when = Chosen::Face,
                    .place = 80,
                    .words = "Block here",
                    .hint = "A block standing where you clicked",
                    .fields = {{"does", "join"}},
                    .stands_there = true,
                    .any_body = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double g = context.growth_mm;
        Vec3 size(context.number("size_x"), context.number("size_y"), context.number("size_z"));
        bool corner = context.word("from") == "corner";
        auto flat = [&](const char* field, const Vec3& way) {
            return corner ? size_one_way(field, (size - size.cwiseProduct(way)) / 2, way)
                          : size_both_ways(field, Vec3(0, 0, size.z() / 2), way);
        };
        return place_solid(before, context, corner ? g : origin_drop(context, size.z()),
                           [&](Transform at) {
                               at.translate(corner ? Vec3(-g, -g, 0) : Vec3(-size.x() / 2 - g, -size.y() / 2 - g, 0));
                               return make_block(size + Vec3::Constant(2 * g), at, context.source());
                           },
                           {flat("size_x", Vec3::UnitX()), flat("size_y", Vec3::UnitY()),
                            corner ? size_one_way("size_z", {size.x() / 2, size.y() / 2, 0}, Vec3::UnitZ())
                                   : height_handle(context, "size_z")});
    };
    return kind;
}

} // namespace lp
