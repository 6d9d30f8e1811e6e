// Turns a body more and more along an axis.
#include "base/tolerance.h"
#include "steps/bending/deforming.h"

namespace lp {

StepKind twist_kind() {
    StepKind kind;
    kind.id = "twist";
    kind.title = "Twist";
    kind.purpose = "Turns a body more and more along an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields({{"angle", FieldKind::Angle, "45 deg", -36000, 36000, {}, "over the stretch"},
                                  {"along", FieldKind::Choice, "z", 0, 0, axis_names(), "the axis"},
                                  {"from", FieldKind::Length, "0 mm", -far, far, {}, "where it begins"},
                                  {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends"},
                                  {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                                  {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                                  {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"}});
    kind.sentence = "Twist {what} by {angle} along {along} from {from} to {to}"
                    "[, about {through_x}, {through_y}, {through_z}][, within {tolerance}]";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"spiral"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        double from = context.number("from"), to = context.number("to"), angle = radians(context.number("angle"));
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The twist has no length.", "Let it end beyond where it begins.");
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        Vec3 axis = Vec3::Unit(u);
        PointMap map = [=](const Vec3& p) {
            double t = (std::clamp(p[u], from, to) - from) / (to - from);
            return Vec3(Eigen::AngleAxisd(angle * t, axis) * (p - through) + through);
        };
        double rate = std::fabs(angle) / (to - from), tolerance_mm = context.number("tolerance");
        EdgeLimit limit = [=](const Vec3& at, const Vec3& along) {
            Vec3 away = at - through;
            away[u] = 0;
            double turn = rate * std::fabs(along[u]); // radians a millimetre of the edge
            if (turn < 1e-12) return 1e300;
            // A straight edge becomes a curve of curvature up to r turn^2 upright, 2 turn where it runs across as well.
            Vec3 flat = along;
            flat[u] = 0;
            double bent = away.norm() * turn * turn + 2 * turn * flat.norm();
            return chord_for(1 / std::max(bent, 1e-9), tolerance_mm);
        };
        // Parted in even levels: halving alone leaves more facets, and wrinkles.
        double farthest = 0, low = to, high = from;
        for (const StepBody& body : before)
            for (const Vec3& v : body.body.mesh().vertices) {
                low = std::min(low, v[u]);
                high = std::max(high, v[u]);
                farthest = std::max(
                    farthest, std::hypot(v[(u + 1) % 3] - through[(u + 1) % 3], v[(u + 2) % 3] - through[(u + 2) % 3]));
            }
        low = std::max(low, from);
        high = std::min(high, to);
        // An upright edge needs so many; more of them spare narrow facets from being halved. Wide ones are halved by
        // the limit, from levels closer than an upright edge needs: edges that slant bend for both their ways.
        const double step = chord_for(1 / std::max(farthest * rate * rate, 1e-9), tolerance_mm);
        auto levels = [&](double share) {
            std::vector<double> places{from, to};
            constexpr double most = 600;
            const int n = high > low ? int(std::min(most, std::ceil(share * (high - low) / step))) : 0;
            for (int k = 1; k < n; ++k) places.push_back(low + (high - low) * k / n);
            return places;
        };
        return deform(before, context, map, limit,
                      {u, levels(1 / 0.7), {levels(1), levels(1.25), levels(1.6), levels(2)}}, "twist");
    };
    return kind;
}

} // namespace lp
