// Leans a whole body sideways.
#include "base/tolerance.h"
#include "steps/bending/deforming.h"

namespace lp {

StepKind skew_kind() {
    StepKind kind;
    kind.id = "skew";
    kind.title = "Skew";
    kind.purpose = "Leans a whole body sideways: layers slide over each other, volume stays.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields(
        {{"angle", FieldKind::Angle, "15 deg", -80, 80, {}, "of the lean"},
         {"towards", FieldKind::Choice, "x", 0, 0, axis_names(), "the way it leans"},
         {"along", FieldKind::Choice, "z", 0, 0, axis_names(), "the way the layers are stacked"},
         {"from", FieldKind::Length, "0 mm", -far, far, {}, "the layer that stays"},
         {"over", FieldKind::Length, "0 mm", 0, far, {}, "height of the stretch that leans; 0: all of the body"}});
    kind.sentence = "Skew {what} by {angle} towards {towards}, rising along {along}[, from {from}][, over {over}]"
                    "[, within {tolerance}]";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"shear", "slant"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along")), w = axis_index(context.word("towards"));
        if (u == w) return problem(ProblemCode::Range, "A body cannot lean the way it is stacked.", "Choose another.");
        double slope = std::tan(radians(context.number("angle"))), from = context.number("from"),
               over = context.number("over");
        Kinks kinks; // of a stretch: what is below stays, what is above goes along
        if (over > 0) kinks = {u, {from, from + over}};
        // Flat facets stay flat: nothing needs to be parted but at the kinks.
        return deform(
            before, context,
            [=](const Vec3& p) {
                Vec3 q = p;
                q[w] += slope * (over > 0 ? std::clamp(p[u] - from, 0.0, over) : p[u] - from);
                return q;
            },
            [](const Vec3&, const Vec3&) { return 1e300; }, kinks);
    };
    return kind;
}

} // namespace lp
