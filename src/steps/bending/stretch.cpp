// Makes what lies between two planes longer or shorter; what lies beyond goes along as it is.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/bending/deforming.h"

namespace lp {

StepKind stretch_kind() {
    StepKind kind;
    kind.id = "stretch";
    kind.title = "Stretch";
    kind.purpose = "Makes what lies between two places along an axis longer or shorter; what lies beyond goes along.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields({{"by", FieldKind::Length, "5 mm", -far, far, {}, "longer by this; below 0 shorter"},
                                  {"along", FieldKind::Choice, "x", 0, 0, axis_names(), "the axis"},
                                  {"from", FieldKind::Length, "0 mm", -far, far, {}, "where it begins; stays"},
                                  {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends; moves"}});
    kind.sentence = "Stretch {what} by {by} along {along}, from {from} to {to}[, within {tolerance}]";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"lengthen", "elongate", "shorten", "squash"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        const int u = axis_index(context.word("along"));
        const double from = context.number("from"), to = context.number("to"), by = context.number("by");
        const double length = to - from;
        if (!(length > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "There is nothing between the two places.",
                           "Let it end beyond where it begins.");
        if (!(length + by > tolerance::smallest_mm))
            return problem(ProblemCode::Range,
                           "It is " + format_quantity(length, QuantityKind::Length) + " long: nothing would be left.",
                           "Shorten it by less.");
        // Straight between its kinks: facets that end there stay true, however large they are.
        const PointMap map = [=](const Vec3& p) {
            Vec3 q = p;
            q[u] = p[u] <= from ? p[u] : p[u] >= to ? p[u] + by : from + (p[u] - from) * (length + by) / length;
            return q;
        };
        return deform(
            before, context, map, [](const Vec3&, const Vec3&) { return 1e300; }, {u, {from, to}}, "stretch");
    };
    return kind;
}

} // namespace lp
