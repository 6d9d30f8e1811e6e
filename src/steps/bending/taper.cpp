// Makes a body evenly narrower or wider along an axis.
#include "base/tolerance.h"
#include "steps/bending/deforming.h"

namespace lp {

StepKind taper_kind() {
    StepKind kind;
    kind.id = "taper";
    kind.title = "Taper";
    kind.purpose = "Makes a body evenly narrower or wider along an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields({{"by", FieldKind::Number, "0.5", 0.01, 100, {}, "its width at the end, as a share"},
                                  {"along", FieldKind::Choice, "z", 0, 0, axis_names(), "the axis"},
                                  {"from", FieldKind::Length, "0 mm", -far, far, {}, "where it begins, full width"},
                                  {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends"},
                                  {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                                  {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                                  {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"}});
    kind.sentence = "Taper {what} to {by} along {along} from {from} to {to}"
                    "[, about {through_x}, {through_y}, {through_z}][, within {tolerance}]";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"narrow"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        double from = context.number("from"), to = context.number("to"), by = context.number("by");
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The taper has no length.", "Let it end beyond where it begins.");
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        PointMap map = [=](const Vec3& p) {
            double t = (std::clamp(p[u], from, to) - from) / (to - from), share = 1 + t * (by - 1);
            Vec3 q = through + share * (p - through);
            q[u] = p[u];
            return q;
        };
        return deform(before, context, map, {}, {u, {from, to}}, "taper");
    };
    return kind;
}

} // namespace lp
