#include "outline/curve_meet.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

/// Parameter of a point on the carrier of a piece, or nothing when outside the piece by more than the tolerance.
bool parameter_on(const Curve& c, const Vec2& p, double tolerance, double& t) {
    t = c.nearest(p);
    return (c.at(t) - p).squaredNorm() <= tolerance * tolerance;
}

void add(std::vector<Meeting>& found, const Curve& a, const Curve& b, const Vec2& p, double tolerance) {
    Meeting m;
    if (parameter_on(a, p, tolerance, m.s) && parameter_on(b, p, tolerance, m.t)) found.push_back(m);
}

void ends(std::vector<Meeting>& found, const Curve& a, const Curve& b, double tolerance) {
    for (const Vec2& p : {b.first(), b.last()}) add(found, a, b, p, tolerance);
    for (const Vec2& p : {a.first(), a.last()}) add(found, a, b, p, tolerance);
}

void line_line(std::vector<Meeting>& found, const Curve& a, const Curve& b, double tolerance) {
    Vec2 u = a.points[1] - a.points[0], v = b.points[1] - b.points[0], w = b.points[0] - a.points[0];
    double d = cross2(u, v), lu = u.norm(), lv = v.norm();
    if (std::fabs(d) < 1e-12 * lu * lv) return;
    double s = cross2(w, v) / d;
    // The carriers cross at one point: it counts when it lies on both, a tolerance beyond the ends included.
    double t = cross2(w, u) / d;
    if (s * lu < -tolerance || (s - 1) * lu > tolerance || t * lv < -tolerance || (t - 1) * lv > tolerance) return;
    found.push_back({std::clamp(s, 0.0, 1.0), std::clamp(t, 0.0, 1.0)});
}

void line_arc(std::vector<Meeting>& found, const Curve& line, const Curve& arc, double tolerance, bool swap) {
    Vec2 u = line.points[1] - line.points[0];
    double length = u.norm();
    if (length == 0) return;
    u /= length;
    Vec2 w = arc.centre - line.points[0];
    double along = w.dot(u), off = cross2(u, w), h2 = arc.radius * arc.radius - off * off;
    std::vector<double> at;
    // Touching within the tolerance is one meeting, at the foot of the centre.
    if (std::fabs(std::fabs(off) - arc.radius) <= tolerance)
        at = {along};
    else if (h2 > 0)
        at = {along - std::sqrt(h2), along + std::sqrt(h2)};
    for (double x : at) {
        Vec2 p = line.points[0] + x * u;
        Meeting m;
        double& s = swap ? m.t : m.s;
        double& t = swap ? m.s : m.t;
        if (parameter_on(line, p, 2 * tolerance, s) && parameter_on(arc, p, 2 * tolerance, t)) found.push_back(m);
    }
}

void arc_arc(std::vector<Meeting>& found, const Curve& a, const Curve& b, double tolerance) {
    Vec2 w = b.centre - a.centre;
    double d = w.norm();
    if (d < tolerance && std::fabs(a.radius - b.radius) < tolerance) return; // one circle: ends only
    if (d < 1e-15) return;
    double x = (d * d + a.radius * a.radius - b.radius * b.radius) / (2 * d), h2 = a.radius * a.radius - x * x;
    Vec2 u = w / d, n(-u.y(), u.x());
    double outside = d - (a.radius + b.radius), within = std::fabs(a.radius - b.radius) - d;
    if (outside > tolerance || within > tolerance) return;
    if (std::fabs(outside) <= tolerance || std::fabs(within) <= tolerance) {
        // Touching: the middle between the two nearest points.
        double sa = std::fabs(outside) <= tolerance || a.radius > b.radius ? 1 : -1;
        add(found, a, b, a.centre + sa * a.radius * u, 2 * tolerance);
        return;
    }
    double h = std::sqrt(std::max(0.0, h2));
    for (double side : {-1.0, 1.0}) add(found, a, b, a.centre + x * u + side * h * n, 2 * tolerance);
}

} // namespace

std::vector<Meeting> meetings(const Curve& a, const Curve& b, double tolerance) {
    std::vector<Meeting> found;
    bool la = a.kind == Curve::Kind::Line, lb = b.kind == Curve::Kind::Line;
    if (la && lb)
        line_line(found, a, b, tolerance);
    else if (la)
        line_arc(found, a, b, tolerance, false);
    else if (lb)
        line_arc(found, b, a, tolerance, true);
    else
        arc_arc(found, a, b, tolerance);
    ends(found, a, b, tolerance);
    return found;
}

} // namespace lp
