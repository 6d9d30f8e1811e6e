// Plane curves of an outline: straight, circular, elliptic, and chains of cubics. Millimetres; angles in radians
// inside.
#pragma once
#include "base/geometry.h"
#include <vector>

namespace lp {

using Box2 = Eigen::AlignedBox2d;

inline double cross2(const Vec2& a, const Vec2& b) {
    return a.x() * b.y() - a.y() * b.x();
}

/// A curve with a parameter t from 0 to end().
/// Line: points a, b. Arc: centre, radius, start angle, signed sweep (2 pi for a circle). Ellipse: as an arc, with the
/// half axis `major` and the length of the half axis at right angles to it. Cubics: 3 n + 1 control points, t in 0..n.
struct Curve {
    enum class Kind { Line, Arc, Ellipse, Cubics };
    Kind kind = Kind::Line;
    std::vector<Vec2> points; ///< Line: 2; Cubics: 3 n + 1
    Vec2 centre = Vec2::Zero();
    double radius = 0;          ///< Arc
    Vec2 major = Vec2::UnitX(); ///< Ellipse
    double minor = 0;           ///< Ellipse
    double start = 0, sweep = 0;

    static Curve line(const Vec2& a, const Vec2& b);
    static Curve arc(const Vec2& centre, double radius, double start, double sweep);
    static Curve circle(const Vec2& centre, double radius);
    /// Counter-clockwise about `centre` when `ccw`; the radius is that of `from`.
    static Curve arc_between(const Vec2& centre, const Vec2& from, const Vec2& to, bool ccw);
    /// The arc from `a` to `b` through `middle`; a line when they are in one line.
    static Curve arc_through(const Vec2& a, const Vec2& middle, const Vec2& b);
    static Curve ellipse(const Vec2& centre, const Vec2& major, double minor, double start, double sweep);
    static Curve cubic(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d);
    static Curve quadratic(const Vec2& a, const Vec2& b, const Vec2& c);
    /// Smooth interpolation (twice continuously differentiable, natural ends or closed) through the points.
    static Curve spline(const std::vector<Vec2>& through, bool closed);

    double end() const { return kind == Kind::Cubics ? double(points.size() / 3) : 1.0; }
    Vec2 at(double t) const;
    Vec2 derivative(double t) const;
    Vec2 first() const { return at(0); }
    Vec2 last() const { return at(end()); }
    bool closed() const;    ///< the ends are one point
    Box2 box() const;       ///< holds the curve; tight for lines and arcs
    Box2 tight_box() const; ///< the smallest box round it
    double length() const;
    /// Integral of x dy - y dx over two: the sum round a closed loop is its signed area.
    double area_share() const;
    Curve reversed() const;
    Curve part(double t0, double t1) const; ///< t0 < t1
    /// Moved so that its ends are exactly these (they must be near); keeps its form otherwise.
    Curve fitted(const Vec2& from, const Vec2& to) const;
    /// Turned, moved, mirrored or scaled alike in x and y (other maps turn circles to ellipses).
    Curve mapped(const Eigen::Affine2d& map) const;
    /// Parameters, from 0 to end(), whose chords stay within `deviation` mm.
    std::vector<double> stations(double deviation) const;
    /// Nearest parameter to `p`.
    double nearest(const Vec2& p) const;
    bool finite() const;
};

/// Points on a chain of curves with chords within `deviation` mm, without repeats at the joints.
std::vector<Vec2> flatten(const std::vector<Curve>& chain, double deviation);
/// Signed area inside a closed chain of curves, mm2.
double signed_area(const std::vector<Curve>& loop);
/// Whether `p` lies inside a closed chain (odd crossings).
bool inside_loop(const std::vector<Curve>& loop, const Vec2& p);
/// Distance from `p` to the nearest of the curves; flattened ones to 1e-3 mm.
double distance_to(const std::vector<Curve>& curves, const Vec2& p);

} // namespace lp
