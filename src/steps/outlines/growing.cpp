#include "steps/outlines/growing.h"

namespace lp {

std::vector<StepField> growing_fields(std::vector<StepField> own) {
    std::vector<StepField> fields{
        {"regions",
         FieldKind::Regions,
         "all",
         0,
         0,
         {},
         "which closed regions: all that are filled, every, or clicked ones"},
        StepField{"outline", FieldKind::Outline, "", 0, 0, {}, "the drawing they are in"}.optional("the last outline")};
    fields.insert(fields.end(), own.begin(), own.end());
    fields.push_back(does_field());
    return fields;
}

Expected<GrownFrom> find_regions_to_grow(const StepContext& context) {
    auto outline = find_outline(context, context.word("outline"));
    if (!outline) return pass_on(outline);
    const OutlineShape& shape = *(*outline)->shape;
    auto chosen = chosen_regions(shape, context.word("regions"));
    if (!chosen) {
        Problem why = chosen.error();
        if (why.point) why.point = (*outline)->plane * *why.point;
        return pass_on(why);
    }
    auto merged = merged_regions(shape.arrangement, *chosen);
    if (!merged) return pass_on(merged);
    return GrownFrom{*outline, std::move(*merged)};
}

} // namespace lp
