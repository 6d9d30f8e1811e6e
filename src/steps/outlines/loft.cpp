// Loft: a body that runs smoothly through two or more outlines.
#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/outlines/swept_shape.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind loft_kind() {
    StepKind kind;
    kind.id = "loft";
    kind.title = "Loft";
    kind.purpose = "Runs smoothly through two or more outlines.";
    kind.fields = {
        {"outlines", FieldKind::Outlines, "", 0, 0, {}, "two or more drawings, in order"},
        {"walls", FieldKind::Choice, "smooth", 0, 0, {"smooth", "straight"}, "between three and more outlines"}};
    kind.fields.push_back(does_field());
    kind.sentence = "Loft through {outlines}[, {walls} between them], {does}";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"blend", "transition"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (context.growth_mm != 0)
            return problem(ProblemCode::Geometry, "A lofted body cannot carry a gap.",
                           "Cut with another shape, or loft through larger outlines.");
        std::vector<LoftSection> sections;
        for (const std::string& name : listed(context.word("outlines"), ',')) {
            auto outline = find_outline(context, name);
            if (!outline) return pass_on(outline);
            auto chosen = chosen_regions(*(*outline)->shape, "all");
            if (!chosen) return pass_on(chosen);
            auto regions = merged_regions((*outline)->shape->arrangement, *chosen);
            if (!regions) return pass_on(regions);
            if (regions->size() != 1)
                return problem(ProblemCode::Geometry,
                               "The outline " + name + " has " + std::to_string(regions->size()) +
                                   " regions, and a loft takes one of each.",
                               "Keep one closed line in it.");
            sections.push_back({regions->front(), (*outline)->plane});
        }
        auto made = lofted_body(sections, context.word("walls") == "straight", context.source());
        if (!made) return pass_on(made);
        auto result = apply_solid(before, *made, context);
        if (result) result->place = StepPlace{sections[0].plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
