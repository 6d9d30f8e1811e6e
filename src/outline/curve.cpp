#include "outline/curve.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {
constexpr double two_pi = 2 * std::numbers::pi;

Vec2 unit(double angle) {
    return {std::cos(angle), std::sin(angle)};
}
double angle_of(const Vec2& v) {
    return std::atan2(v.y(), v.x());
}
/// Sweep from angle a to b, in (0, 2 pi] counter-clockwise or [-2 pi, 0) clockwise.
double sweep_between(double a, double b, bool ccw) {
    double s = std::remainder(b - a, two_pi);
    if (ccw && s <= 1e-12) s += two_pi;
    if (!ccw && s >= -1e-12) s -= two_pi;
    return s;
}
/// Gauss-Legendre, 5 points (Abramowitz and Stegun 25.4.30, from memory): exact for cubics' areas.
template <class F> double integrate(double a, double b, F f) {
    static const double x[5] = {0, 0.5384693101056831, -0.5384693101056831, 0.9061798459386640, -0.9061798459386640};
    static const double w[5] = {0.5688888888888889, 0.4786286704993665, 0.4786286704993665, 0.2369268850561891,
                                0.2369268850561891};
    double sum = 0, m = (a + b) / 2, h = (b - a) / 2;
    for (int i = 0; i < 5; ++i) sum += w[i] * f(m + h * x[i]);
    return sum * h;
}
} // namespace

Curve Curve::line(const Vec2& a, const Vec2& b) {
    Curve c;
    c.points = {a, b};
    return c;
}

Curve Curve::arc(const Vec2& centre, double radius, double start, double sweep) {
    Curve c;
    c.kind = Kind::Arc;
    c.centre = centre;
    c.radius = radius;
    c.start = start;
    c.sweep = sweep;
    return c;
}

Curve Curve::circle(const Vec2& centre, double radius) {
    return arc(centre, radius, 0, two_pi);
}

Curve Curve::arc_between(const Vec2& centre, const Vec2& from, const Vec2& to, bool ccw) {
    double a = angle_of(from - centre), b = angle_of(to - centre);
    return arc(centre, (from - centre).norm(), a, sweep_between(a, b, ccw));
}

Curve Curve::arc_through(const Vec2& a, const Vec2& middle, const Vec2& b) {
    Vec2 u = middle - a, v = b - a;
    double d = 2 * cross2(u, v), size = std::max(u.norm(), v.norm());
    if (std::fabs(d) < 1e-12 * size * size + 1e-300) return line(a, b);
    Vec2 c(v.y() * u.squaredNorm() - u.y() * v.squaredNorm(), u.x() * v.squaredNorm() - v.x() * u.squaredNorm());
    c /= d;
    if (c.norm() > 1e7) return line(a, b);
    return arc_between(a + c, a, b, d > 0);
}

Curve Curve::ellipse(const Vec2& centre, const Vec2& major, double minor, double start, double sweep) {
    Curve c;
    c.kind = Kind::Ellipse;
    c.centre = centre;
    c.major = major;
    c.minor = minor;
    c.start = start;
    c.sweep = sweep;
    return c;
}

Curve Curve::cubic(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    Curve curve;
    curve.kind = Kind::Cubics;
    curve.points = {a, b, c, d};
    return curve;
}

Curve Curve::quadratic(const Vec2& a, const Vec2& b, const Vec2& c) {
    return cubic(a, a + (b - a) * (2.0 / 3), c + (b - c) * (2.0 / 3), c);
}

Curve Curve::spline(const std::vector<Vec2>& p, bool closed) {
    size_t n = p.size();
    if (n < 2) return line(p.empty() ? Vec2(0, 0) : p[0], p.empty() ? Vec2(0, 0) : p[0]);
    if (n == 2) return line(p[0], p[1]);
    // Tangents m of a uniform cubic spline: m[i-1] + 4 m[i] + m[i+1] = 3 (p[i+1] - p[i-1]); natural ends
    // 2 m[0] + m[1] = 3 (p[1] - p[0]). Textbook formula, from memory.
    Eigen::MatrixXd a = Eigen::MatrixXd::Zero(long(n), long(n)), b(long(n), 2);
    for (size_t i = 0; i < n; ++i) {
        long k = long(i), before = long((i + n - 1) % n), after = long((i + 1) % n);
        if (!closed && (i == 0 || i + 1 == n)) {
            a(k, k) = 2;
            a(k, i == 0 ? 1 : long(n) - 2) = 1;
            b.row(k) = 3 * (i == 0 ? p[1] - p[0] : p[n - 1] - p[n - 2]).transpose();
            continue;
        }
        a(k, k) += 4;
        a(k, before) += 1;
        a(k, after) += 1;
        b.row(k) = 3 * (p[size_t(after)] - p[size_t(before)]).transpose();
    }
    Eigen::MatrixXd m = a.partialPivLu().solve(b);
    Curve c;
    c.kind = Kind::Cubics;
    c.points.push_back(p[0]);
    for (size_t i = 0; i + (closed ? 0 : 1) < n; ++i) {
        size_t j = (i + 1) % n;
        c.points.push_back(p[i] + m.row(long(i)).transpose() / 3);
        c.points.push_back(p[j] - m.row(long(j)).transpose() / 3);
        c.points.push_back(p[j]);
    }
    return c;
}

Vec2 Curve::at(double t) const {
    switch (kind) {
    case Kind::Line:
        return points[0] + t * (points[1] - points[0]);
    case Kind::Arc:
        return centre + radius * unit(start + t * sweep);
    case Kind::Ellipse: {
        double a = start + t * sweep;
        Vec2 side = Vec2(-major.y(), major.x()).normalized() * minor;
        return centre + std::cos(a) * major + std::sin(a) * side;
    }
    case Kind::Cubics: {
        size_t n = points.size() / 3, i = std::min(n - 1, size_t(std::max(0.0, std::floor(t))));
        double s = t - double(i), r = 1 - s;
        const Vec2* p = &points[3 * i];
        return r * r * r * p[0] + 3 * r * r * s * p[1] + 3 * r * s * s * p[2] + s * s * s * p[3];
    }
    }
    return Vec2::Zero();
}

Vec2 Curve::derivative(double t) const {
    switch (kind) {
    case Kind::Line:
        return points[1] - points[0];
    case Kind::Arc:
        return radius * sweep * unit(start + t * sweep + std::numbers::pi / 2);
    case Kind::Ellipse: {
        double a = start + t * sweep;
        Vec2 side = Vec2(-major.y(), major.x()).normalized() * minor;
        return sweep * (-std::sin(a) * major + std::cos(a) * side);
    }
    case Kind::Cubics: {
        size_t n = points.size() / 3, i = std::min(n - 1, size_t(std::max(0.0, std::floor(t))));
        double s = t - double(i), r = 1 - s;
        const Vec2* p = &points[3 * i];
        return 3 * (r * r * (p[1] - p[0]) + 2 * r * s * (p[2] - p[1]) + s * s * (p[3] - p[2]));
    }
    }
    return Vec2::Zero();
}

bool Curve::closed() const {
    if (kind == Kind::Arc || kind == Kind::Ellipse) return std::fabs(sweep) > two_pi - 1e-9;
    return kind == Kind::Cubics && (first() - last()).norm() < 1e-9;
}

Box2 Curve::box() const {
    Box2 b;
    if (kind == Kind::Line || kind == Kind::Cubics) {
        for (const Vec2& p : points) b.extend(p);
        return b;
    }
    if (kind == Kind::Ellipse) {
        double r = std::max(major.norm(), minor);
        return Box2(centre - Vec2(r, r), centre + Vec2(r, r));
    }
    b.extend(first());
    b.extend(last());
    double low = std::min(start, start + sweep), high = std::max(start, start + sweep);
    for (double q = std::ceil(low / (two_pi / 4)); q * two_pi / 4 <= high; ++q)
        b.extend(centre + radius * unit(q * two_pi / 4));
    return b;
}

Box2 Curve::tight_box() const {
    if (kind == Kind::Line || kind == Kind::Arc) return box();
    Box2 b;
    b.extend(first());
    b.extend(last());
    if (kind == Kind::Ellipse) {
        Vec2 side = Vec2(-major.y(), major.x()).normalized() * minor;
        double low = std::min(start, start + sweep), high = std::max(start, start + sweep);
        for (int axis = 0; axis < 2; ++axis) { // where the derivative of that coordinate is nought
            double extreme = std::atan2(side[axis], major[axis]);
            for (double a = extreme + std::ceil((low - extreme) / std::numbers::pi) * std::numbers::pi; a <= high;
                 a += std::numbers::pi)
                b.extend(Vec2(centre + std::cos(a) * major + std::sin(a) * side));
        }
        return b;
    }
    for (size_t i = 0; i + 3 < points.size(); i += 3)
        for (int axis = 0; axis < 2; ++axis) {
            double p0 = points[i][axis], p1 = points[i + 1][axis], p2 = points[i + 2][axis], p3 = points[i + 3][axis];
            double qa = p3 - 3 * p2 + 3 * p1 - p0, qb = 2 * (p2 - 2 * p1 + p0), qc = p1 - p0,
                   root = qb * qb - 4 * qa * qc;
            b.extend(points[i]);
            std::vector<double> at;
            if (std::fabs(qa) < 1e-12 * (std::fabs(qb) + std::fabs(qc)))
                at = {std::fabs(qb) > 0 ? -qc / qb : -1};
            else if (root >= 0)
                at = {(-qb + std::sqrt(root)) / (2 * qa), (-qb - std::sqrt(root)) / (2 * qa)};
            for (double t : at)
                if (t > 0 && t < 1) b.extend(this->at(double(i / 3) + t));
        }
    return b;
}

double Curve::length() const {
    if (kind == Kind::Line) return (points[1] - points[0]).norm();
    if (kind == Kind::Arc) return std::fabs(radius * sweep);
    double sum = 0;
    int steps = kind == Kind::Ellipse ? 16 : 4 * int(end());
    for (int i = 0; i < steps; ++i)
        sum += integrate(end() * i / steps, end() * (i + 1) / steps, [&](double t) { return derivative(t).norm(); });
    return sum;
}

double Curve::area_share() const {
    if (kind == Kind::Line) return cross2(points[0], points[1]) / 2;
    if (kind == Kind::Arc || kind == Kind::Ellipse) {
        // Sector about the centre plus the part of the centre's offset.
        double factor = kind == Kind::Arc ? radius * radius : major.norm() * minor;
        return factor * sweep / 2 + cross2(centre, last() - first()) / 2;
    }
    double sum = 0;
    for (int i = 0; i < int(end()); ++i)
        sum += integrate(i, i + 1, [&](double t) {
            // The right derivative within the span.
            double inside = std::clamp(t, double(i), std::nextafter(double(i + 1), 0.0));
            return cross2(at(inside), derivative(inside)) / 2;
        });
    return sum;
}

Curve Curve::reversed() const {
    Curve c = *this;
    std::reverse(c.points.begin(), c.points.end());
    c.start = start + sweep;
    c.sweep = -sweep;
    return c;
}

Curve Curve::part(double t0, double t1) const {
    Curve c = *this;
    switch (kind) {
    case Kind::Line:
        c.points = {at(t0), at(t1)};
        break;
    case Kind::Arc:
    case Kind::Ellipse:
        c.start = start + t0 * sweep;
        c.sweep = (t1 - t0) * sweep;
        break;
    case Kind::Cubics: {
        c.points.clear();
        int last = int(end()) - 1;
        int i0 = std::clamp(int(std::floor(t0 + 1e-12)), 0, last),
            i1 = std::clamp(int(std::ceil(t1 - 1e-12)) - 1, 0, last);
        for (int i = i0; i <= i1; ++i) {
            double s0 = i == i0 ? std::max(0.0, t0 - i) : 0, s1 = i == i1 ? std::min(1.0, t1 - i) : 1;
            const Vec2* p = &points[size_t(3 * i)];
            auto blossom = [&](double a, double b, double d) {
                auto mix = [](const Vec2& u, const Vec2& v, double s) { return Vec2(u + s * (v - u)); };
                Vec2 p01 = mix(p[0], p[1], a), p12 = mix(p[1], p[2], a), p23 = mix(p[2], p[3], a);
                return mix(mix(p01, p12, b), mix(p12, p23, b), d);
            };
            if (c.points.empty()) c.points.push_back(blossom(s0, s0, s0));
            c.points.push_back(blossom(s0, s0, s1));
            c.points.push_back(blossom(s0, s1, s1));
            c.points.push_back(blossom(s1, s1, s1));
        }
        break;
    }
    }
    return c;
}

Curve Curve::fitted(const Vec2& from, const Vec2& to) const {
    Vec2 a = first(), b = last();
    if ((a - from).norm() < 1e-11 && (b - to).norm() < 1e-11) return *this;
    if (kind == Kind::Line) return line(from, to);
    if (closed() && (from - to).norm() < 1e-9) return *this;
    if (kind == Kind::Arc) {
        // Keeps the sagitta: the arc through the new ends and the middle moved with them.
        Vec2 middle = at(0.5) + (from - a + to - b) / 2;
        double bend = std::fabs(sweep);
        if (bend < 1.9 * std::numbers::pi) return arc_through(from, middle, to);
        return arc_between(centre, from, to, sweep > 0);
    }
    if (kind == Kind::Cubics) {
        Curve c = *this;
        c.points[0] = from;
        c.points[1] += from - a;
        size_t n = c.points.size();
        c.points[n - 2] += to - b;
        c.points[n - 1] = to;
        return c;
    }
    return *this; // an ellipse keeps its form: the kernel's vertices take up the difference
}

Curve Curve::mapped(const Eigen::Affine2d& map) const {
    Curve c = *this;
    for (Vec2& p : c.points) p = map * p;
    c.centre = map * centre;
    if (kind != Kind::Arc && kind != Kind::Ellipse) return c;
    const Eigen::Matrix2d m = map.linear();
    double scale_x = m.col(0).norm(), scale_y = m.col(1).norm(), det = m.determinant();
    bool alike = std::fabs(scale_x - scale_y) < 1e-9 * std::max(scale_x, scale_y) &&
                 std::fabs(m.col(0).dot(m.col(1))) < 1e-9 * scale_x * scale_y;
    if (kind == Kind::Arc && alike) {
        c.radius = radius * scale_x;
        c.start = angle_of(m * unit(start));
        c.sweep = det < 0 ? -sweep : sweep;
        return c;
    }
    // The image of an ellipse: conjugate half axes p, q made orthogonal (singular values).
    Vec2 u = kind == Kind::Arc ? Vec2(radius, 0) : major;
    Vec2 v = kind == Kind::Arc ? Vec2(0, radius) : Vec2(Vec2(-major.y(), major.x()).normalized() * minor);
    Eigen::Matrix2d axes;
    axes.col(0) = m * u;
    axes.col(1) = m * v;
    Eigen::JacobiSVD<Eigen::Matrix2d> svd(axes, Eigen::ComputeFullU | Eigen::ComputeFullV);
    c.kind = Kind::Ellipse;
    c.major = svd.matrixU().col(0) * svd.singularValues()[0];
    c.minor = svd.singularValues()[1];
    Vec2 side = Vec2(-c.major.y(), c.major.x()).normalized();
    Vec2 p = axes * unit(start);
    c.start = std::atan2(p.dot(side) / std::max(c.minor, 1e-300), p.dot(c.major.normalized()) / c.major.norm());
    c.sweep = det < 0 ? -sweep : sweep;
    return c;
}

std::vector<double> Curve::stations(double deviation) const {
    int n = 1;
    if (kind == Kind::Arc || kind == Kind::Ellipse) {
        double r = kind == Kind::Arc ? radius : std::max(major.norm(), minor);
        double step = 2 * std::acos(std::clamp(1 - deviation / std::max(r, deviation), -1.0, 1.0));
        n = std::max(int(std::ceil(std::fabs(sweep) / std::min(step, two_pi / 12))), 2);
    }
    std::vector<double> result;
    if (kind != Kind::Cubics) {
        for (int i = 0; i <= n; ++i) result.push_back(double(i) / n);
        return result;
    }
    for (int i = 0; i < int(end()); ++i) {
        // Chord error of a cubic: second differences of its control points over 8, times 6 (standard bound).
        const Vec2* p = &points[size_t(3 * i)];
        double bend = std::max((p[0] - 2 * p[1] + p[2]).norm(), (p[1] - 2 * p[2] + p[3]).norm());
        int steps = std::clamp(int(std::ceil(std::sqrt(0.75 * bend / deviation))), 1, 256);
        for (int k = 0; k < steps; ++k) result.push_back(i + double(k) / steps);
    }
    result.push_back(end());
    return result;
}

double Curve::nearest(const Vec2& p) const {
    if (kind == Kind::Line) {
        Vec2 d = points[1] - points[0];
        return d.squaredNorm() > 0 ? std::clamp((p - points[0]).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0;
    }
    if (kind == Kind::Arc) {
        double s = sweep_between(start, angle_of(p - centre), sweep > 0) / sweep;
        if (s > 1 - 1e-12 && closed()) return std::fmod(s, 1.0);
        if (s <= 1) return s;
        return (p - first()).squaredNorm() < (p - last()).squaredNorm() ? 0 : 1;
    }
    std::vector<double> t = stations(0.01);
    double best = 0, best_d = 1e300;
    for (size_t i = 0; i + 1 < t.size(); ++i) {
        Curve chord = line(at(t[i]), at(t[i + 1]));
        double s = chord.nearest(p), d = (chord.at(s) - p).squaredNorm();
        if (d < best_d) best_d = d, best = t[i] + s * (t[i + 1] - t[i]);
    }
    for (int k = 0; k < 8; ++k) { // Newton on (c - p) . c' with the second derivative left out
        Vec2 d = derivative(best);
        if (d.squaredNorm() == 0) break;
        double step = (p - at(best)).dot(d) / d.squaredNorm();
        best = std::clamp(best + step, 0.0, end());
        if (std::fabs(step) < 1e-13) break;
    }
    return best;
}

bool Curve::finite() const {
    for (const Vec2& p : points)
        if (!p.allFinite()) return false;
    return centre.allFinite() && std::isfinite(radius) && major.allFinite() && std::isfinite(minor) &&
           std::isfinite(start) && std::isfinite(sweep);
}

std::vector<Vec2> flatten(const std::vector<Curve>& chain, double deviation) {
    std::vector<Vec2> result;
    for (const Curve& c : chain)
        for (double t : c.stations(deviation))
            if (Vec2 p = c.at(t); result.empty() || (result.back() - p).norm() > 1e-9) result.push_back(p);
    return result;
}

double signed_area(const std::vector<Curve>& loop) {
    double sum = 0;
    Vec2 origin = loop.empty() ? Vec2(0, 0) : loop[0].first(); // near the loop: keeps digits far from the origin
    Eigen::Affine2d shift = Eigen::Affine2d::Identity();
    shift.translate(-origin);
    for (const Curve& c : loop) sum += c.mapped(shift).area_share();
    return sum;
}

bool inside_loop(const std::vector<Curve>& loop, const Vec2& p) {
    bool odd = false;
    auto cross_chord = [&](const Vec2& a, const Vec2& b) {
        if ((a.y() <= p.y()) == (b.y() <= p.y())) return;
        if (a.x() + (p.y() - a.y()) / (b.y() - a.y()) * (b.x() - a.x()) > p.x()) odd = !odd;
    };
    for (size_t n = 0; n < loop.size(); ++n) {
        const Curve& c = loop[n];
        // Where one curve ends the next begins, to the last digit: a ray that passes between the two would miss both.
        constexpr double same_mm = 1e-6;
        const Vec2 first = c.first(), next_first = loop[(n + 1) % loop.size()].first();
        const Vec2 last = (next_first - c.last()).norm() < same_mm ? next_first : c.last();
        if (c.kind == Curve::Kind::Line) {
            cross_chord(first, last);
            continue;
        }
        Box2 box = c.box();
        box.extend(last);
        if (p.y() < box.min().y() || p.y() > box.max().y() || p.x() > box.max().x()) continue;
        if (c.kind != Curve::Kind::Arc) {
            std::vector<double> t = c.stations(1e-3);
            for (size_t i = 0; i + 1 < t.size(); ++i)
                cross_chord(i == 0 ? first : c.at(t[i]), i + 2 == t.size() ? last : c.at(t[i + 1]));
            continue;
        }
        // Arcs in pieces that rise or fall only.
        double low = std::min(c.start, c.start + c.sweep), high = std::max(c.start, c.start + c.sweep), from = low;
        while (from < high) {
            double quarter = std::numbers::pi / 2;
            double next = (std::floor((from - quarter) / std::numbers::pi + 1e-12) + 1) * std::numbers::pi + quarter;
            double to = std::min(high, next);
            Vec2 a = c.centre + c.radius * unit(from), b = c.centre + c.radius * unit(to);
            if (from == low) a = c.sweep > 0 ? first : last;
            if (to == high) b = c.sweep > 0 ? last : first;
            from = to;
            if ((a.y() <= p.y()) == (b.y() <= p.y())) continue;
            double dy = std::clamp((p.y() - c.centre.y()) / c.radius, -1.0, 1.0), side = std::sqrt(1 - dy * dy);
            bool right = std::max(a.x(), b.x()) > c.centre.x() + 1e-15 && a.x() + b.x() > 2 * c.centre.x();
            if (c.centre.x() + (right ? side : -side) * c.radius > p.x()) odd = !odd;
        }
    }
    return odd;
}

double distance_to(const std::vector<Curve>& curves, const Vec2& p) {
    double best = 1e300;
    for (const Curve& c : curves) {
        if (c.box().squaredExteriorDistance(p) >= best * best) continue;
        best = std::min(best, (c.at(c.nearest(p)) - p).norm());
    }
    return best;
}

} // namespace lp
