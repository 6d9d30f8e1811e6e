#include "outline/shapes.h"
#include "outline/curve.h"

namespace lp {

DrawingId point_near(Drawing& d, const Vec2& at, double near_mm) {
    if (near_mm > 0) {
        if (at.norm() <= near_mm) return origin_id;
        for (const auto& [id, p] : d.points)
            if ((p - at).norm() <= near_mm) return id;
    }
    return d.add_point(at);
}

namespace {
DrawnElements four_lines(Drawing& d, const DrawingId (&p)[4]) {
    DrawnElements lines;
    for (int k = 0; k < 4; ++k) lines.push_back(d.add(ElementKind::Line, {p[k], p[(k + 1) % 4]}));
    for (int k = 0; k < 4; ++k)
        d.add(k % 2 ? ConstraintKind::Vertical : ConstraintKind::Horizontal, {lines[size_t(k)]});
    return lines;
}
} // namespace

DrawnElements add_rectangle(Drawing& d, const Vec2& a, const Vec2& b, double near_mm) {
    Vec2 low = a.cwiseMin(b), high = a.cwiseMax(b);
    DrawingId p[4] = {point_near(d, low, near_mm), 0, 0, 0};
    p[1] = point_near(d, {high.x(), low.y()}, near_mm);
    p[2] = point_near(d, high, near_mm);
    p[3] = point_near(d, {low.x(), high.y()}, near_mm);
    return four_lines(d, p);
}

DrawnElements add_centred_rectangle(Drawing& d, const Vec2& centre, const Vec2& corner, double near_mm) {
    Vec2 half = (corner - centre).cwiseAbs();
    DrawnElements lines = add_rectangle(d, centre - half, centre + half);
    DrawingId middle = point_near(d, centre, near_mm);
    DrawingId diagonal = d.add(ElementKind::Line, {d.element(lines[0])->points[0], d.element(lines[1])->points[1]});
    d.element(diagonal)->construction = true;
    d.add(ConstraintKind::Midpoint, {middle, diagonal});
    lines.push_back(diagonal);
    return lines;
}

DrawnElements add_rounded_rectangle(Drawing& d, const Vec2& a, const Vec2& b, double radius) {
    Vec2 low = a.cwiseMin(b), high = a.cwiseMax(b);
    double r = std::min({radius, (high - low).x() / 2.001, (high - low).y() / 2.001});
    const Vec2 corners[4] = {low, {high.x(), low.y()}, high, {low.x(), high.y()}};
    const Vec2 along[4] = {{1, 0}, {0, 1}, {-1, 0}, {0, -1}};
    DrawingId before[4], after[4], centre[4]; // where the sides end at each corner
    for (int k = 0; k < 4; ++k) {
        before[k] = d.add_point(corners[k] - along[(k + 3) % 4] * r);
        after[k] = d.add_point(corners[k] + along[k] * r);
        centre[k] = d.add_point(corners[k] + along[k] * r - along[(k + 3) % 4] * r);
    }
    DrawnElements lines, arcs;
    for (int k = 0; k < 4; ++k) lines.push_back(d.add(ElementKind::Line, {after[k], before[(k + 1) % 4]}));
    for (int k = 0; k < 4; ++k) arcs.push_back(d.add(ElementKind::Arc, {centre[k], before[k], after[k]}));
    for (size_t k = 0; k < 4; ++k) {
        d.add(k % 2 ? ConstraintKind::Vertical : ConstraintKind::Horizontal, {lines[k]});
        d.add(ConstraintKind::Tangent, {lines[k], arcs[k]});
        d.add(ConstraintKind::Tangent, {lines[k], arcs[(k + 1) % 4]});
        if (k > 0) d.add(ConstraintKind::Equal, {arcs[0], arcs[k]});
    }
    lines.insert(lines.end(), arcs.begin(), arcs.end());
    return lines;
}

DrawnElements add_slot(Drawing& d, const Vec2& a, const Vec2& b, double r) {
    Vec2 u = (b - a).normalized(), n(-u.y(), u.x());
    DrawingId ca = d.add_point(a), cb = d.add_point(b);
    DrawingId a_low = d.add_point(a - n * r), a_high = d.add_point(a + n * r), b_low = d.add_point(b - n * r),
              b_high = d.add_point(b + n * r);
    DrawingId low = d.add(ElementKind::Line, {a_low, b_low}), high = d.add(ElementKind::Line, {b_high, a_high});
    DrawingId end = d.add(ElementKind::Arc, {cb, b_low, b_high}), begin = d.add(ElementKind::Arc, {ca, a_high, a_low});
    for (DrawingId line : {low, high})
        for (DrawingId arc : {end, begin}) d.add(ConstraintKind::Tangent, {line, arc});
    d.add(ConstraintKind::Equal, {end, begin});
    return {low, end, high, begin};
}

DrawnElements add_polygon(Drawing& d, const Vec2& centre, const Vec2& rim, int sides, bool over_flats) {
    double r = (rim - centre).norm(), start = std::atan2(rim.y() - centre.y(), rim.x() - centre.x()),
           half = std::numbers::pi / sides;
    double corner = over_flats ? r / std::cos(half) : r;
    std::vector<DrawingId> p;
    for (int k = 0; k < sides; ++k) {
        double angle = start + (2 * k - (over_flats ? 1 : 0)) * half;
        p.push_back(d.add_point(centre + corner * Vec2(std::cos(angle), std::sin(angle))));
    }
    DrawnElements lines;
    for (size_t k = 0; k < p.size(); ++k) lines.push_back(d.add(ElementKind::Line, {p[k], p[(k + 1) % p.size()]}));
    DrawingId circle = d.add(ElementKind::Circle, {d.add_point(centre)}, r);
    d.element(circle)->construction = true;
    // n points on the circle (or n sides touching it) and n - 1 equal sides leave place, size and turn free. Touching
    // sides of equal length are regular only with all of them touching; the last equality follows.
    for (size_t k = 0; k < p.size(); ++k) {
        if (over_flats)
            d.add(ConstraintKind::Tangent, {lines[k], circle});
        else
            d.add(ConstraintKind::On, {p[k], circle});
        if (k + 1 < p.size()) d.add(ConstraintKind::Equal, {lines[0], lines[k + 1]});
    }
    // Over flats, equal sides round a circle may alternate between two lengths of tangent for even counts: one joint is
    // bisected.
    lines.push_back(circle);
    return lines;
}

DrawnElements add_arc_through(Drawing& d, const Vec2& a, const Vec2& middle, const Vec2& b, double near_mm) {
    Curve c = Curve::arc_through(a, middle, b);
    DrawingId from = point_near(d, a, near_mm), to = point_near(d, b, near_mm);
    if (c.kind == Curve::Kind::Line) return {d.add(ElementKind::Line, {from, to})};
    DrawingId centre = d.add_point(c.centre);
    if (c.sweep < 0) std::swap(from, to);
    return {d.add(ElementKind::Arc, {centre, from, to})};
}

} // namespace lp
