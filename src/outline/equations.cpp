#include "outline/equations.h"
#include <cmath>

namespace lp {

namespace {
struct DVec {
    Dual x, y;
    DVec operator-(const DVec& o) const { return {x - o.x, y - o.y}; }
    DVec operator+(const DVec& o) const { return {x + o.x, y + o.y}; }
};
DVec at(const Dual* v, int i) {
    return {v[2 * i], v[2 * i + 1]};
}
Dual dot(const DVec& a, const DVec& b) {
    return a.x * b.x + a.y * b.y;
}
Dual cross(const DVec& a, const DVec& b) {
    return a.x * b.y - a.y * b.x;
}
Dual length(const DVec& a) {
    using std::sqrt;
    return sqrt(a.x * a.x + a.y * a.y + 1e-18);
}
Dual angle_between(const DVec& a, const DVec& b) {
    using std::atan2;
    return atan2(cross(a, b), dot(a, b));
}
double wrapped(double a) {
    return std::remainder(a, 2 * std::numbers::pi);
}
} // namespace

/// Turns constraints into equations.
class EquationBuilder {
  public:
    EquationBuilder(EquationSystem& system, const Drawing& drawing) : s_(system), d_(drawing) {
        for (const Element& e : d_.elements) elements_[e.id] = &e;
        set_up_variables();
        for (const Element& e : d_.elements)
            if (e.kind == ElementKind::Arc) arc_itself(e);
        for (const Constraint& c : d_.constraints) constraint(c);
    }

  private:
    /// A line by its two points, or a round curve by centre and radius (a variable, or a point on it).
    struct Round {
        DrawingId centre;
        std::optional<int> radius;
        std::optional<DrawingId> rim;
    };

    void set_up_variables() {
        std::vector<double> x;
        auto point = [&](DrawingId id, const Vec2& p, bool fixed) {
            s_.points_[id] = int(x.size());
            for (int k = 0; k < 2; ++k) {
                x.push_back(p[k]);
                s_.column_.push_back(fixed ? -1 : 0);
            }
        };
        std::set<DrawingId> followed;
        for (const Element& e : d_.elements)
            if (!e.follows.empty()) followed.insert(e.points.begin(), e.points.end());
        point(origin_id, {0, 0}, true);
        point(x_tip, {1, 0}, true);
        point(y_tip, {0, 1}, true);
        for (const auto& [id, p] : d_.points) point(id, p, followed.count(id) > 0);
        for (const Element& e : d_.elements)
            if (e.kind == ElementKind::Circle || e.kind == ElementKind::Ellipse) {
                s_.radii_[e.id] = int(x.size());
                x.push_back(e.radius);
                s_.column_.push_back(e.follows.empty() ? 0 : -1);
            }
        s_.x_ = Eigen::Map<Eigen::VectorXd>(x.data(), long(x.size()));
        for (int& column : s_.column_)
            if (column >= 0) column = s_.columns_++;
    }

    void add(DrawingId id, std::vector<DrawingId> points, std::vector<int> others, std::function<Dual(const Dual*)> f) {
        Equation e;
        e.constraint = id;
        for (DrawingId p : points) {
            e.variables.push_back(s_.points_.at(p));
            e.variables.push_back(s_.points_.at(p) + 1);
        }
        e.variables.insert(e.variables.end(), others.begin(), others.end());
        e.value = std::move(f);
        s_.equations_.push_back(std::move(e));
    }

    Vec2 now(DrawingId p) const { return s_.x_.segment<2>(s_.points_.at(p)); }

    void arc_itself(const Element& e) {
        add(0, e.points, {},
            [](const Dual* v) { return Dual(length(at(v, 1) - at(v, 0)) - length(at(v, 2) - at(v, 0))); });
    }

    std::optional<std::pair<DrawingId, DrawingId>> line(DrawingId id) const {
        if (id == x_axis_id) return std::pair(origin_id, x_tip);
        if (id == y_axis_id) return std::pair(origin_id, y_tip);
        auto e = elements_.find(id);
        if (e == elements_.end() || e->second->kind != ElementKind::Line) return std::nullopt;
        return std::pair(e->second->points[0], e->second->points[1]);
    }

    std::optional<Round> round(DrawingId id) const {
        auto e = elements_.find(id);
        if (e == elements_.end()) return std::nullopt;
        if (e->second->kind == ElementKind::Circle) return Round{e->second->points[0], s_.radii_.at(id), {}};
        if (e->second->kind == ElementKind::Arc) return Round{e->second->points[0], {}, e->second->points[1]};
        return std::nullopt;
    }

    /// Two round curves in one equation. Points first (centre a, [rim a], centre b, [rim b]), then radius variables.
    struct Rounds {
        std::vector<DrawingId> points;
        std::vector<int> others;
        int centre_a = 0, rim_a = -1, centre_b = 0, rim_b = -1, radius_a = -1, radius_b = -1; ///< places in v
    };
    Rounds rounds(const Round& a, const Round* b, std::vector<DrawingId> first = {}) const {
        Rounds r;
        r.points = std::move(first);
        auto put = [&](const Round& c, int& centre, int& rim) {
            centre = int(r.points.size());
            r.points.push_back(c.centre);
            if (c.rim) rim = int(r.points.size()), r.points.push_back(*c.rim);
        };
        put(a, r.centre_a, r.rim_a);
        if (b) put(*b, r.centre_b, r.rim_b);
        int next = int(2 * r.points.size());
        if (a.radius) r.radius_a = next++, r.others.push_back(*a.radius);
        if (b && b->radius) r.radius_b = next++, r.others.push_back(*b->radius);
        return r;
    }
    static Dual radius_in(const Dual* v, int centre, int rim, int radius) {
        return radius >= 0 ? v[radius] : length(at(v, rim) - at(v, centre));
    }
    double radius_now(const Round& r) const {
        return r.radius ? s_.x_[*r.radius] : (now(*r.rim) - now(r.centre)).norm();
    }

    void constraint(const Constraint& c);
    void dimension(const Constraint& c);
    void tangent(const Constraint& c);
    void symmetric(const Constraint& c);
    void fixed(const Constraint& c);
    void tangent_ellipse(const Constraint& c, DrawingId line_id, const Element& ellipse);
    void tangent_spline(const Constraint& c, DrawingId other, const Element& spline);
    /// Points that are one, or said to be.
    bool same_place(DrawingId p, DrawingId q) const {
        if (p == q) return true;
        for (const Constraint& k : d_.constraints)
            if (k.kind == ConstraintKind::Coincident &&
                ((k.of[0] == p && k.of[1] == q) || (k.of[0] == q && k.of[1] == p)))
                return true;
        return false;
    }
    void on(const Constraint& c);

    std::function<double()> target(DrawingId id) {
        EquationSystem* s = &s_;
        return [s, id] {
            auto found = s->values_.find(id);
            return found == s->values_.end() ? 0.0 : found->second;
        };
    }

    static constexpr DrawingId x_tip = 0xfffffff0, y_tip = 0xfffffff1;
    EquationSystem& s_;
    const Drawing& d_;
    std::unordered_map<DrawingId, const Element*> elements_;
};

void EquationBuilder::on(const Constraint& c) {
    if (auto l = line(c.of[1])) {
        add(c.id, {c.of[0], l->first, l->second}, {}, [](const Dual* v) {
            DVec u = at(v, 2) - at(v, 1);
            return Dual(cross(u, at(v, 0) - at(v, 1)) / length(u));
        });
    } else if (auto r = round(c.of[1])) {
        Rounds k = rounds(*r, nullptr, {c.of[0]});
        add(c.id, k.points, k.others, [k](const Dual* v) {
            return Dual(length(at(v, 0) - at(v, k.centre_a)) - radius_in(v, k.centre_a, k.rim_a, k.radius_a));
        });
    } else if (auto e = elements_.find(c.of[1]); e != elements_.end() && e->second->kind == ElementKind::Ellipse) {
        add(c.id, {c.of[0], e->second->points[0], e->second->points[1]}, {s_.radii_.at(c.of[1])}, [](const Dual* v) {
            DVec w = at(v, 0) - at(v, 1), u = at(v, 2) - at(v, 1);
            Dual a = length(u), p = dot(w, u) / a / a, q = cross(u, w) / a / v[6];
            using std::sqrt;
            return Dual((sqrt(p * p + q * q + 1e-18) - 1.0) * v[6]);
        });
    }
}

void EquationBuilder::tangent(const Constraint& c) {
    DrawingId first = c.of[0], second = c.of[1];
    for (int k = 0; k < 2; ++k)
        if (auto e = elements_.find(c.of[size_t(k)]); e != elements_.end()) {
            if (e->second->kind == ElementKind::Spline) return tangent_spline(c, c.of[size_t(1 - k)], *e->second);
            if (e->second->kind == ElementKind::Ellipse) return tangent_ellipse(c, c.of[size_t(1 - k)], *e->second);
        }
    if (line(second)) std::swap(first, second);
    auto l = line(first);
    auto a = round(first), b = round(second);
    if (!b) return;
    // Where they share an end the tangent is said there: the distance form would say nothing new (double root).
    auto ends = [&](DrawingId id) -> std::vector<DrawingId> {
        auto e = elements_.find(id);
        if (e == elements_.end()) return {};
        const auto& p = e->second->points;
        if (e->second->kind == ElementKind::Line) return p;
        if (e->second->kind == ElementKind::Arc) return {p[1], p[2]};
        return {};
    };
    std::optional<DrawingId> shared;
    for (DrawingId p : ends(first))
        for (DrawingId q : ends(second))
            if (same_place(p, q)) shared = q;
    if (l) {
        if (shared) {
            add(c.id, {b->centre, *shared, l->first, l->second}, {}, [](const Dual* v) {
                DVec u = at(v, 3) - at(v, 2);
                return Dual(dot(at(v, 1) - at(v, 0), u) / length(u));
            });
            return;
        }
        double side = cross2(now(l->second) - now(l->first), now(b->centre) - now(l->first)) < 0 ? -1 : 1;
        Rounds k = rounds(*b, nullptr, {l->first, l->second});
        add(c.id, k.points, k.others, [k, side](const Dual* v) {
            DVec u = at(v, 1) - at(v, 0);
            return Dual(cross(u, at(v, k.centre_a) - at(v, 0)) / length(u) * side -
                        radius_in(v, k.centre_a, k.rim_a, k.radius_a));
        });
        return;
    }
    if (!a) return;
    if (shared) {
        add(c.id, {a->centre, b->centre, *shared}, {}, [](const Dual* v) {
            DVec p = at(v, 2) - at(v, 0), q = at(v, 2) - at(v, 1);
            return Dual(cross(p, q) / (length(p) + length(q)) * 2.0);
        });
        return;
    }
    double d = (now(a->centre) - now(b->centre)).norm(), ra = radius_now(*a), rb = radius_now(*b);
    bool outside = std::fabs(d - (ra + rb)) <= std::fabs(d - std::fabs(ra - rb));
    double sign = ra >= rb ? 1 : -1;
    Rounds k = rounds(*a, &*b);
    add(c.id, k.points, k.others, [k, outside, sign](const Dual* v) {
        Dual apart = length(at(v, k.centre_a) - at(v, k.centre_b));
        Dual p = radius_in(v, k.centre_a, k.rim_a, k.radius_a), q = radius_in(v, k.centre_b, k.rim_b, k.radius_b);
        return outside ? Dual(apart - p - q) : Dual(apart - (p - q) * sign);
    });
}

void EquationBuilder::tangent_ellipse(const Constraint& c, DrawingId line_id, const Element& ellipse) {
    auto l = line(line_id);
    if (!l) return;
    DrawingId centre = ellipse.points[0], tip = ellipse.points[1];
    int minor = s_.radii_.at(ellipse.id);
    // An end of the line that is held on the ellipse: there the line runs along it (the distance would be a double
    // root).
    for (DrawingId end : {l->first, l->second})
        for (const Constraint& k : d_.constraints)
            if (k.kind == ConstraintKind::On && k.of[1] == ellipse.id && same_place(k.of[0], end)) {
                add(c.id, {centre, tip, end, l->first, l->second}, {minor}, [](const Dual* v) {
                    DVec w = at(v, 2) - at(v, 0), u = at(v, 1) - at(v, 0), t = at(v, 4) - at(v, 3);
                    Dual a = length(u), b = v[10];
                    // Gradient of (p/a)^2 + (q/b)^2 along the line, scaled to millimetres.
                    Dual along = dot(w, u) / a, across = cross(u, w) / a;
                    Dual slope = along / (a * a) * (dot(t, u) / a) + across / (b * b) * (cross(u, t) / a);
                    return Dual(slope / length(t) * b * b);
                });
                return;
            }
    // Support function of an ellipse: its centre is sqrt((a n.u)^2 + (b n.v)^2) from every tangent with normal n.
    double side = cross2(now(l->second) - now(l->first), now(centre) - now(l->first)) < 0 ? -1 : 1;
    add(c.id, {l->first, l->second, centre, tip}, {minor}, [side](const Dual* v) {
        using std::sqrt;
        DVec t = at(v, 1) - at(v, 0), u = at(v, 3) - at(v, 2);
        Dual size = length(t), a = cross(t, u) / size, b = v[8] * dot(t, u) / size / length(u);
        return Dual(cross(t, at(v, 2) - at(v, 0)) / size * side - sqrt(a * a + b * b + 1e-18));
    });
}

void EquationBuilder::tangent_spline(const Constraint& c, DrawingId other, const Element& spline) {
    // At an end they share. The spline's slope there is a weighted sum of all its points, with weights that depend on
    // their number only.
    const auto& p = spline.points;
    if (spline.closed || p.size() < 2) return;
    for (bool first : {true, false}) {
        DrawingId end = first ? p.front() : p.back();
        std::vector<DrawingId> of; // what the direction of the other comes from: to - from, turned for an arc
        bool turned = false;
        if (auto l = line(other)) {
            if (same_place(l->first, end) || same_place(l->second, end)) of = {l->first, l->second};
        } else if (auto e = elements_.find(other); e != elements_.end() && e->second->kind == ElementKind::Arc) {
            for (size_t k : {size_t(1), size_t(2)})
                if (same_place(e->second->points[k], end)) of = {e->second->points[0], e->second->points[k]};
            turned = true;
        }
        if (of.empty()) continue;
        std::vector<double> weights;
        std::vector<Vec2> unit(p.size(), Vec2::Zero());
        for (size_t k = 0; k < p.size(); ++k) {
            unit[k] = Vec2(1, 0);
            Curve curve = Curve::spline(unit, false);
            double slope = curve.kind == Curve::Kind::Line ? curve.points[1].x() - curve.points[0].x()
                           : first                         ? 3 * (curve.points[1].x() - curve.points[0].x())
                                   : 3 * (curve.points.back().x() - curve.points[curve.points.size() - 2].x());
            weights.push_back(slope);
            unit[k] = Vec2::Zero();
        }
        Equation e;
        e.constraint = c.id;
        for (const auto& list : {p, of})
            for (DrawingId id : list)
                for (int k = 0; k < 2; ++k) e.variables.push_back(s_.points_.at(id) + k);
        e.wide = [weights, turned](const double* v, double* slopes) {
            size_t n = weights.size();
            Vec2 m = Vec2::Zero();
            for (size_t i = 0; i < n; ++i) m += weights[i] * Vec2(v[2 * i], v[2 * i + 1]);
            Vec2 d(v[2 * n + 2] - v[2 * n], v[2 * n + 3] - v[2 * n + 1]);
            double size = std::max(d.norm(), 1e-9);
            Vec2 u = d / size;
            // r = cross(m, u) along a line, dot(m, u) where u is an arc's radius.
            Vec2 by_m = turned ? u : Vec2(u.y(), -u.x()), by_u = turned ? m : Vec2(-m.y(), m.x());
            for (size_t i = 0; i < n; ++i)
                for (int k = 0; k < 2; ++k) slopes[2 * i + size_t(k)] = weights[i] * by_m[k];
            Vec2 by_d = (by_u - u * u.dot(by_u)) / size;
            for (int k = 0; k < 2; ++k) slopes[2 * n + size_t(k)] = -by_d[k], slopes[2 * n + 2 + size_t(k)] = by_d[k];
            return m.dot(by_m);
        };
        s_.equations_.push_back(std::move(e));
        return;
    }
}

void EquationBuilder::dimension(const Constraint& c) {
    auto want = target(c.id);
    std::optional<std::pair<DrawingId, DrawingId>> ends;
    if (c.of.size() == 1) ends = line(c.of[0]);
    if (c.of.size() == 2 && d_.is_point(c.of[0]) && d_.is_point(c.of[1])) ends = std::pair(c.of[0], c.of[1]);
    switch (c.kind) {
    case ConstraintKind::Distance:
    case ConstraintKind::Length: {
        if (ends) {
            add(c.id, {ends->first, ends->second}, {},
                [want](const Dual* v) { return Dual(length(at(v, 1) - at(v, 0)) - want()); });
            return;
        }
        if (c.of.size() != 2) return;
        DrawingId point = c.of[0], other = c.of[1];
        if (!d_.is_point(point)) std::swap(point, other);
        auto l = line(other);
        if (!d_.is_point(point)) // two lines: from the first end of one to the other
            if (auto k = line(point)) point = k->first;
        if (!l || !s_.points_.count(point)) return;
        double side = cross2(now(l->second) - now(l->first), now(point) - now(l->first)) < 0 ? -1 : 1;
        add(c.id, {point, l->first, l->second}, {}, [want, side](const Dual* v) {
            DVec u = at(v, 2) - at(v, 1);
            return Dual(cross(u, at(v, 0) - at(v, 1)) / length(u) * side - want());
        });
        return;
    }
    case ConstraintKind::DistanceX:
    case ConstraintKind::DistanceY: {
        if (!ends) return;
        int axis = c.kind == ConstraintKind::DistanceY;
        double sign = now(ends->second)[axis] < now(ends->first)[axis] ? -1 : 1;
        add(c.id, {ends->first, ends->second}, {},
            [want, axis, sign](const Dual* v) { return Dual((v[2 + axis] - v[axis]) * sign - want()); });
        return;
    }
    case ConstraintKind::Angle: {
        auto a = line(c.of.size() == 2 ? c.of[0] : x_axis_id), b = line(c.of.back());
        if (!a || !b) return;
        Vec2 u = now(a->second) - now(a->first), w = now(b->second) - now(b->first);
        double sign = std::atan2(cross2(u, w), u.dot(w)) < 0 ? -1 : 1;
        double scale = std::max(w.norm(), 1e-3);
        add(c.id, {a->first, a->second, b->first, b->second}, {}, [want, sign, scale](const Dual* v) {
            Dual turn = angle_between(at(v, 1) - at(v, 0), at(v, 3) - at(v, 2));
            Dual off = turn * sign - radians(want());
            off.value() = wrapped(off.value());
            return Dual(off * scale);
        });
        return;
    }
    case ConstraintKind::Radius:
    case ConstraintKind::Diameter: {
        auto r = round(c.of[0]);
        if (!r) return;
        double factor = c.kind == ConstraintKind::Diameter ? 0.5 : 1;
        Rounds k = rounds(*r, nullptr);
        add(c.id, k.points, k.others, [k, want, factor](const Dual* v) {
            return Dual(radius_in(v, k.centre_a, k.rim_a, k.radius_a) - want() * factor);
        });
        return;
    }
    case ConstraintKind::ArcLength: {
        auto e = elements_.find(c.of[0]);
        if (e == elements_.end() || e->second->kind != ElementKind::Arc) return;
        add(c.id, e->second->points, {}, [want](const Dual* v) {
            DVec p = at(v, 1) - at(v, 0), q = at(v, 2) - at(v, 0);
            Dual turn = angle_between(p, q);
            if (turn.value() <= 0) turn = turn + 2 * std::numbers::pi;
            return Dual(turn * length(p) - want());
        });
        return;
    }
    default:
        return;
    }
}

void EquationBuilder::symmetric(const Constraint& c) {
    auto l = *line(c.of[2]);
    std::vector<DrawingId> all{c.of[0], c.of[1], l.first, l.second};
    add(c.id, all, {}, [](const Dual* v) {
        DVec u = at(v, 3) - at(v, 2), m = at(v, 0) + at(v, 1) - at(v, 2) - at(v, 2);
        return Dual(cross(u, m) * 0.5 / length(u));
    });
    add(c.id, all, {}, [](const Dual* v) {
        DVec u = at(v, 3) - at(v, 2);
        return Dual(dot(u, at(v, 1) - at(v, 0)) / length(u));
    });
}

void EquationBuilder::fixed(const Constraint& c) {
    std::vector<int> variables;
    if (d_.is_point(c.of[0])) {
        variables = {s_.points_.at(c.of[0]), s_.points_.at(c.of[0]) + 1};
    } else if (auto e = elements_.find(c.of[0]); e != elements_.end()) {
        for (DrawingId p : e->second->points)
            for (int k = 0; k < 2; ++k) variables.push_back(s_.points_.at(p) + k);
        if (auto r = s_.radii_.find(c.of[0]); r != s_.radii_.end()) variables.push_back(r->second);
    }
    for (int variable : variables)
        add(c.id, {}, {variable}, [here = s_.x_[variable]](const Dual* v) { return Dual(v[0] - here); });
}

void EquationBuilder::constraint(const Constraint& c) {
    using Ends = std::pair<DrawingId, DrawingId>;
    bool line1 = !c.of.empty() && line(c.of[0]), line2 = c.of.size() > 1 && line(c.of[1]);
    Ends l1 = line1 ? line(c.of[0]).value_or(Ends{}) : Ends{}, l2 = line2 ? line(c.of[1]).value_or(Ends{}) : Ends{};
    switch (c.kind) {
    case ConstraintKind::Coincident:
        for (int k = 0; k < 2; ++k)
            add(c.id, {c.of[0], c.of[1]}, {}, [k](const Dual* v) { return Dual(v[2 + k] - v[k]); });
        return;
    case ConstraintKind::On:
        return on(c);
    case ConstraintKind::Horizontal:
    case ConstraintKind::Vertical: {
        auto ends = c.of.size() == 2 ? std::pair(c.of[0], c.of[1]) : l1;
        int axis = c.kind == ConstraintKind::Horizontal;
        add(c.id, {ends.first, ends.second}, {}, [axis](const Dual* v) { return Dual(v[2 + axis] - v[axis]); });
        return;
    }
    case ConstraintKind::Parallel:
    case ConstraintKind::Perpendicular: {
        bool along = c.kind == ConstraintKind::Parallel;
        add(c.id, {l1.first, l1.second, l2.first, l2.second}, {}, [along](const Dual* v) {
            DVec a = at(v, 1) - at(v, 0), b = at(v, 3) - at(v, 2);
            return Dual((along ? cross(a, b) : dot(a, b)) / (length(a) + length(b)) * 2.0);
        });
        return;
    }
    case ConstraintKind::Tangent:
        return tangent(c);
    case ConstraintKind::Equal:
        if (line1 && line2) {
            add(c.id, {l1.first, l1.second, l2.first, l2.second}, {},
                [](const Dual* v) { return Dual(length(at(v, 1) - at(v, 0)) - length(at(v, 3) - at(v, 2))); });
        } else if (auto a = round(c.of[0]), b = round(c.of[1]); a && b) {
            Rounds k = rounds(*a, &*b);
            add(c.id, k.points, k.others, [k](const Dual* v) {
                return Dual(radius_in(v, k.centre_a, k.rim_a, k.radius_a) -
                            radius_in(v, k.centre_b, k.rim_b, k.radius_b));
            });
        }
        return;
    case ConstraintKind::Midpoint:
        for (int k = 0; k < 2; ++k)
            add(c.id, {c.of[0], l2.first, l2.second}, {},
                [k](const Dual* v) { return Dual(v[k] - (v[2 + k] + v[4 + k]) * 0.5); });
        return;
    case ConstraintKind::Symmetric:
        return symmetric(c);
    case ConstraintKind::Concentric: {
        auto centre = [&](DrawingId id) {
            auto e = elements_.find(id);
            return e == elements_.end() ? id : e->second->points[0];
        };
        for (int k = 0; k < 2; ++k)
            add(c.id, {centre(c.of[0]), centre(c.of[1])}, {}, [k](const Dual* v) { return Dual(v[2 + k] - v[k]); });
        return;
    }
    case ConstraintKind::Fixed:
        return fixed(c);
    default:
        return dimension(c);
    }
}

EquationSystem::EquationSystem(const Drawing& drawing, const DimensionValues& values) : values_(values) {
    EquationBuilder(*this, drawing);
}

std::optional<int> EquationSystem::radius_variable(DrawingId element) const {
    auto found = radii_.find(element);
    return found == radii_.end() ? std::nullopt : std::optional(found->second);
}

Eigen::VectorXd EquationSystem::residuals() const {
    Eigen::VectorXd r;
    jacobian(r);
    return r;
}

Eigen::SparseMatrix<double> EquationSystem::jacobian(Eigen::VectorXd& r) const {
    r.resize(rows());
    std::vector<Eigen::Triplet<double>> entries;
    entries.reserve(size_t(rows()) * 8);
    Dual v[12];
    std::vector<double> plain, slopes;
    for (int row = 0; row < rows(); ++row) {
        const Equation& e = equations_[size_t(row)];
        if (e.wide) {
            plain.clear();
            for (int variable : e.variables) plain.push_back(x_[variable]);
            slopes.assign(plain.size(), 0);
            r[row] = e.wide(plain.data(), slopes.data());
            for (size_t k = 0; k < plain.size(); ++k)
                if (int column = column_[size_t(e.variables[k])]; column >= 0)
                    entries.emplace_back(row, column, slopes[k]);
            continue;
        }
        for (size_t k = 0; k < e.variables.size(); ++k) {
            v[k].value() = x_[e.variables[k]];
            v[k].derivatives().setZero();
            v[k].derivatives()[long(k)] = 1;
        }
        Dual value = e.value(v);
        r[row] = value.value();
        for (size_t k = 0; k < e.variables.size(); ++k)
            if (int column = column_[size_t(e.variables[k])]; column >= 0) // noughts too: the pattern stays the same
                entries.emplace_back(row, column, value.derivatives()[long(k)]);
    }
    Eigen::SparseMatrix<double> j(rows(), columns_);
    j.setFromTriplets(entries.begin(), entries.end());
    return j;
}

void EquationSystem::write_back(Drawing& drawing) const {
    for (auto& [id, p] : drawing.points) p = x_.segment<2>(points_.at(id));
    for (Element& e : drawing.elements)
        if (auto r = radii_.find(e.id); r != radii_.end()) e.radius = x_[r->second];
}

std::vector<int> EquationSystem::variables_of(const Drawing& drawing, DrawingId id) const {
    std::vector<int> result;
    auto point = [&](DrawingId p) {
        auto found = points_.find(p);
        if (found != points_.end()) result.push_back(found->second), result.push_back(found->second + 1);
    };
    if (const Element* e = drawing.element(id)) {
        for (DrawingId p : e->points) point(p);
        if (auto r = radius_variable(id)) result.push_back(*r);
    } else {
        point(id);
    }
    return result;
}

} // namespace lp
