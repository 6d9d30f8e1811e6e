#include "outline/polygon_curves.h"
#include "base/tolerance.h"
#include <algorithm>

namespace lp {
namespace {

constexpr double on_arc_mm = 2 * tolerance::export_deflection_mm;
constexpr size_t fewest_on_arc = 5; ///< points: four facets in a row that turn alike are no accident

/// The longest run from `from` on that lies on one circle: the index of its last point.
size_t arc_end(const std::vector<Vec2>& p, size_t from) {
    size_t best = from;
    for (size_t end = from + fewest_on_arc - 1; end < p.size(); ++end) {
        Curve arc = Curve::arc_through(p[from], p[(from + end) / 2], p[end]);
        if (arc.kind != Curve::Kind::Arc || std::fabs(arc.sweep) > 6.2) break;
        bool on = true;
        for (size_t i = from; i < end && on; ++i) {
            Vec2 middle = (p[i] + p[i + 1]) / 2;
            double facet = (p[i + 1] - p[i]).norm();
            on = std::fabs((p[i] - arc.centre).norm() - arc.radius) < on_arc_mm / 2 &&
                 std::fabs((middle - arc.centre).norm() - arc.radius) < on_arc_mm * 2 && facet < arc.radius;
        }
        if (!on) break;
        best = end;
    }
    return best;
}

} // namespace

std::vector<Curve> curves_of_polygon(std::vector<Vec2> p) {
    // All of it one circle? Its corners need not be spread evenly.
    if (p.size() > 8) {
        const Curve round = Curve::arc_through(p[0], p[p.size() / 3], p[2 * p.size() / 3]);
        double low = 1e300, high = 0;
        for (const Vec2& q : p)
            low = std::min(low, (q - round.centre).norm()), high = std::max(high, (q - round.centre).norm());
        if (round.kind == Curve::Kind::Arc && high - low < on_arc_mm / 4) {
            double twice = 0; // its area: a hole that runs clockwise stays one
            for (size_t i = 0; i < p.size(); ++i) twice += cross2(p[i], p[(i + 1) % p.size()]);
            const Curve circle = Curve::circle(round.centre, high);
            return {twice < 0 ? circle.reversed() : circle};
        }
    }
    // Begin at the longest side: a run is not cut in two.
    size_t longest = 0;
    for (size_t i = 0; i < p.size(); ++i) {
        auto side = [&](size_t k) { return (p[(k + 1) % p.size()] - p[k]).norm(); };
        if (side(i) > side(longest)) longest = i;
    }
    std::rotate(p.begin(), p.begin() + long((longest + 1) % p.size()), p.end());
    p.push_back(p.front());
    std::vector<Curve> curves;
    for (size_t i = 0; i + 1 < p.size();) {
        size_t end = arc_end(p, i);
        if (end > i) {
            curves.push_back(Curve::arc_through(p[i], p[(i + end) / 2], p[end]).fitted(p[i], p[end]));
            i = end;
        } else {
            curves.push_back(Curve::line(p[i], p[i + 1]));
            ++i;
        }
    }
    return curves;
}

} // namespace lp
