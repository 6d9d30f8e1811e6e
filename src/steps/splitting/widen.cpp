// Parts bodies by a plane, pulls the halves apart and draws the walls across the gap.
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/pick_bodies.h"
#include "steps/splitting/parting.h"

namespace lp {

StepKind widen_kind() {
    StepKind kind;
    kind.id = "widen";
    kind.title = "Widen";
    kind.purpose = "Parts bodies by a plane, pulls the halves apart and draws the walls across the gap.";
    const double far = tolerance::largest_mm;
    kind.fields = parting_fields({{"apart", FieldKind::Length, "10 mm", tolerance::smallest_mm, far, {}, "how far"}});
    kind.sentence = "Widen {what} by {apart}, parted by {by}[ at {distance}]";
    kind.group = StepGroup::Splitting;
    kind.synonyms = {"stretch", "lengthen"};
    kind.offers = {{.when = Chosen::Face, .place = 70, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "widen");
        if (!chosen) return pass_on(chosen);
        auto plane = find_plane(before, context, context.value("by"));
        if (!plane) return pass_on(plane);
        plane->translate(Vec3(0, 0, context.number("distance")));
        if (context.nominal) *plane = context.nominal->plane;
        StepResult result{before, {}, {}};
        size_t parted = 0;
        for (size_t i : *chosen) {
            auto wide = widened(before[i].body, *plane, context.number("apart"), context.source(), context.task);
            if (!wide) return pass_on(wide);
            if (!*wide) continue;
            ++parted;
            result.bodies[i].body = (*wide)->body;
            if (!(*wide)->note.empty()) result.note = (*wide)->note;
        }
        if (!parted)
            return problem(ProblemCode::Geometry, "The parting misses the body: nothing is widened.",
                           "Move it, or turn the plane.");
        result.place = StepPlace{*plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
