// Bends what lies along an axis into an arc.
#include "base/tolerance.h"
#include "steps/bending/deforming.h"

namespace lp {

StepKind bend_kind() {
    StepKind kind;
    kind.id = "bend";
    kind.title = "Bend";
    kind.purpose = "Bends what lies along an axis into an arc.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields(
        {{"angle", FieldKind::Angle, "90 deg", -3600, 3600, {}, "over the stretch that is bent"},
         {"along", FieldKind::Choice, "x", 0, 0, axis_names(), "the way the body runs"},
         {"towards", FieldKind::Choice, "z", 0, 0, {"x", "y", "z", "-x", "-y", "-z"}, "the side it is bent to"},
         {"from", FieldKind::Length, "0 mm", -far, far, {}, "where the bend begins, along the body"},
         {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends; beyond that it goes on straight"},
         {"neutral", FieldKind::Length, "0 mm", -far, far, {}, "height that keeps its length, towards that side"}});
    kind.sentence = "Bend {what} by {angle} towards {towards}, along {along} from {from} to {to}"
                    "[, keeping the length at {neutral}][, within {tolerance}]";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"curve", "fold"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        std::string side = context.word("towards");
        double sign = side[0] == '-' ? -1 : 1;
        int w = axis_index(side.substr(side.size() - 1));
        if (u == w)
            return problem(ProblemCode::Range, "A body cannot be bent towards the way it runs.",
                           "Choose another side.");
        double from = context.number("from"), to = context.number("to"), angle = radians(context.number("angle"));
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The bend has no length.", "Let it end beyond where it begins.");
        if (std::fabs(angle) < 1e-9) return StepResult{before, "An angle of 0 bends nothing.", {}};
        if (angle < 0) angle = -angle, sign = -sign;
        double neutral = context.number("neutral") * sign, radius = (to - from) / angle, nothing = std::nan("");
        if (side[0] == '-') neutral = context.number("neutral");
        PointMap map = [=](const Vec3& p) {
            double along = p[u], height = sign * p[w] - neutral;
            if (along <= from) return p;
            double t = std::min(along, to) - from, a = t / radius, r = radius - height,
                   beyond = std::max(0.0, along - to);
            if (r <= 0) return Vec3(nothing, nothing, nothing);
            Vec3 q = p;
            q[u] = from + r * std::sin(a) + beyond * std::cos(a);
            q[w] = sign * (neutral + radius - r * std::cos(a) + beyond * std::sin(a));
            return q;
        };
        double tolerance_mm = context.number("tolerance");
        EdgeLimit limit = [=](const Vec3& at, const Vec3& along) {
            double part = std::fabs(along[u]); // an edge across the bend is not bent
            if (part < 1e-9 || at[u] < from - radius || at[u] > to + radius) return 1e300;
            return chord_for(radius, tolerance_mm) / part;
        };
        return deform(before, context, map, limit, {u, {from, to}});
    };
    return kind;
}

} // namespace lp
