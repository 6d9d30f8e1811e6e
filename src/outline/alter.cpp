#include "outline/alter.h"
#include "base/quantity.h"
#include "outline/curve_meet.h"
#include "outline/outline_shape.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

Vec2 place(const Drawing& d, DrawingId id) {
    return id == origin_id ? Vec2(0, 0) : d.points.at(id);
}

std::optional<Curve> curve_of(const Drawing& d, const Element& e) {
    if (e.kind != ElementKind::Line && e.kind != ElementKind::Arc && e.kind != ElementKind::Circle) return std::nullopt;
    auto curves = element_curves(d, e, {});
    if (!curves || curves->empty()) return std::nullopt;
    return curves->front().curve;
}

tl::unexpected<Problem> only_plain(const char* what) {
    return problem(ProblemCode::Geometry, std::string("Only lines, arcs and circles can be ") + what + ".",
                   "Choose one of those.");
}

/// Parameters at which other elements meet this one, sorted.
std::vector<double> cuts_on(const Drawing& d, const Element& e, const Curve& curve) {
    std::vector<double> cuts;
    for (const Element& other : d.elements) {
        if (other.id == e.id) continue;
        if (auto theirs = curve_of(d, other))
            for (const Meeting& m : meetings(curve, *theirs, 1e-6)) cuts.push_back(m.s);
    }
    std::sort(cuts.begin(), cuts.end());
    cuts.erase(std::unique(cuts.begin(), cuts.end(), [](double a, double b) { return b - a < 1e-9; }), cuts.end());
    return cuts;
}

/// Constraints that no longer make sense for an element that got new ends.
void forget_sizes(Drawing& d, DrawingId element) {
    std::erase_if(d.constraints, [&](const Constraint& c) {
        bool about = std::find(c.of.begin(), c.of.end(), element) != c.of.end();
        return about && (c.kind == ConstraintKind::Length || c.kind == ConstraintKind::ArcLength ||
                         c.kind == ConstraintKind::Equal || c.kind == ConstraintKind::Midpoint ||
                         c.kind == ConstraintKind::Fixed);
    });
}

/// Gives one end of a line or arc a new place: its own new point, so that neighbours stay.
DrawingId new_end(Drawing& d, Element& e, bool last, const Vec2& at) {
    size_t slot = e.kind == ElementKind::Line ? (last ? 1 : 0) : (last ? 2 : 1);
    DrawingId id = d.add_point(at);
    e.points[slot] = id;
    return id;
}

void drop_unused(Drawing& d, DrawingId point) {
    for (const Element& e : d.elements)
        if (std::find(e.points.begin(), e.points.end(), point) != e.points.end()) return;
    d.remove({point});
}

/// Says again that a new end lies on what it was cut at.
void hold_on(Drawing& d, DrawingId point, DrawingId self) {
    Vec2 p = place(d, point);
    for (const Element& other : d.elements) {
        if (other.id == self) continue;
        auto curve = curve_of(d, other);
        if (!curve || (curve->at(curve->nearest(p)) - p).norm() > 1e-6) continue;
        bool own_end = std::find(other.points.begin(), other.points.end(), point) != other.points.end();
        if (!own_end) d.add(ConstraintKind::On, {point, other.id});
        return;
    }
}

struct Corner {
    DrawingId lines[2];
    DrawingId far[2]; ///< other ends
};
Expected<Corner> corner_at(const Drawing& d, DrawingId point) {
    Corner corner{};
    size_t n = 0;
    for (const Element& e : d.elements) {
        if (std::find(e.points.begin(), e.points.end(), point) == e.points.end()) continue;
        if (e.kind != ElementKind::Line || n == 2)
            return problem(ProblemCode::Geometry, "That point is no corner of two lines.",
                           "Choose a point where two lines end.");
        corner.lines[n] = e.id;
        corner.far[n++] = e.points[0] == point ? e.points[1] : e.points[0];
    }
    if (n != 2)
        return problem(ProblemCode::Geometry, "That point is no corner of two lines.",
                       "Choose a point where two lines end.");
    return corner;
}

Expected<double> length_of(const std::string& text, const ParameterValues& parameters) {
    auto value = evaluate_expression(text, QuantityKind::Length, parameters);
    if (value && !(*value > 1e-6))
        return problem(ProblemCode::Range,
                       "A size of " + format_quantity(*value, QuantityKind::Length) + " rounds nothing.",
                       "Use more than 0.");
    return value;
}

/// Two new ends at this distance from a corner; the corner goes.
Expected<std::array<DrawingId, 2>> open_corner(Drawing& d, DrawingId point, const Corner& corner, double along) {
    Vec2 p = place(d, point);
    for (DrawingId far : corner.far)
        if ((place(d, far) - p).norm() <= along + 1e-9)
            return problem(ProblemCode::Geometry,
                           "The corner's lines are too short for that: it needs " +
                               format_quantity(along, QuantityKind::Length) + " of each.",
                           "Use a smaller size.");
    std::array<DrawingId, 2> ends{};
    for (int k = 0; k < 2; ++k) {
        Element& e = *d.element(corner.lines[k]);
        bool last = e.points[1] == point;
        Vec2 u = (place(d, corner.far[k]) - p).normalized();
        ends[size_t(k)] = new_end(d, e, last, p + u * along);
        forget_sizes(d, e.id);
    }
    return ends;
}

} // namespace

Expected<Drawing> trim(const Drawing& drawing, DrawingId id, const Vec2& at) {
    const Element* e = drawing.element(id);
    if (!e) return problem(ProblemCode::Missing, "That element is gone.", "Choose another.");
    auto curve = curve_of(drawing, *e);
    if (!curve) return only_plain("trimmed");
    std::vector<double> cuts = cuts_on(drawing, *e, *curve);
    double t = curve->nearest(at);
    Drawing d = drawing;
    Element& mine = *d.element(id);
    if (e->kind == ElementKind::Circle) {
        if (cuts.size() < 2)
            return problem(ProblemCode::Geometry, "Nothing crosses that circle twice.", "Remove it instead.");
        double low = cuts.back() - 1, high = cuts.front();
        for (size_t i = 0; i + 1 < cuts.size(); ++i)
            if (t >= cuts[i] && t <= cuts[i + 1]) low = cuts[i], high = cuts[i + 1];
        DrawingId from = d.add_point(curve->at(high)), to = d.add_point(curve->at(low));
        mine.kind = ElementKind::Arc;
        mine.points = {mine.points[0], from, to};
        mine.radius = 0;
        hold_on(d, from, id);
        hold_on(d, to, id);
        return d;
    }
    double low = 0, high = 1;
    for (double cut : cuts) {
        if (cut < t - 1e-9) low = std::max(low, cut);
        if (cut > t + 1e-9) high = std::min(high, cut);
    }
    bool first = low<1e-9, last = high> 1 - 1e-9;
    if (first && last) {
        d.remove({id});
        return d;
    }
    forget_sizes(d, id);
    size_t slot_first = e->kind == ElementKind::Line ? 0 : 1, slot_last = slot_first + 1;
    DrawingId old_first = e->points[slot_first], old_last = e->points[slot_last];
    if (first) {
        hold_on(d, new_end(d, mine, false, curve->at(high)), id);
        drop_unused(d, old_first);
    } else if (last) {
        hold_on(d, new_end(d, mine, true, curve->at(low)), id);
        drop_unused(d, old_last);
    } else { // out of the middle: two pieces
        DrawingId from = d.add_point(curve->at(high)), to = new_end(d, mine, true, curve->at(low));
        std::vector<DrawingId> points =
            e->kind == ElementKind::Line ? std::vector{from, old_last} : std::vector{e->points[0], from, old_last};
        ElementKind kind = e->kind;
        bool construction = e->construction;
        DrawingId rest = d.add(kind, points);
        d.element(rest)->construction = construction;
        hold_on(d, to, id);
        hold_on(d, from, rest);
        if (kind == ElementKind::Line) d.add(ConstraintKind::Parallel, {id, rest});
    }
    return d;
}

Expected<Drawing> extend(const Drawing& drawing, DrawingId id, const Vec2& at) {
    const Element* e = drawing.element(id);
    if (!e) return problem(ProblemCode::Missing, "That element is gone.", "Choose another.");
    auto curve = curve_of(drawing, *e);
    if (!curve || e->kind == ElementKind::Circle)
        return problem(ProblemCode::Geometry, "Only lines and arcs can be extended.", "Choose one of those.");
    bool last = (curve->last() - at).norm() < (curve->first() - at).norm();
    Curve longer;
    if (curve->kind == Curve::Kind::Line) {
        Vec2 u = (last ? curve->points[1] - curve->points[0] : curve->points[0] - curve->points[1]).normalized();
        Vec2 end = last ? curve->points[1] : curve->points[0];
        longer = Curve::line(end, end + u * 1e4);
    } else {
        double rest = (2 * std::numbers::pi - std::fabs(curve->sweep)) * (curve->sweep > 0 ? 1 : -1);
        longer = last ? Curve::arc(curve->centre, curve->radius, curve->start + curve->sweep, rest)
                      : Curve::arc(curve->centre, curve->radius, curve->start, -rest);
    }
    double best = 2;
    DrawingId meets = 0;
    for (const Element& other : drawing.elements) {
        if (other.id == id) continue;
        if (auto theirs = curve_of(drawing, other))
            for (const Meeting& m : meetings(longer, *theirs, 1e-6))
                if (m.s * longer.length() > 1e-5 && m.s < best - 1e-12) best = m.s, meets = other.id;
    }
    if (best > 1)
        return problem(ProblemCode::Geometry, "Nothing lies ahead of that end.", "Draw something for it to meet.");
    Drawing d = drawing;
    size_t slot = e->kind == ElementKind::Line ? (last ? 1 : 0) : (last ? 2 : 1);
    DrawingId old = e->points[slot];
    forget_sizes(d, id);
    DrawingId end = new_end(d, *d.element(id), last, longer.at(best));
    d.add(ConstraintKind::On, {end, meets});
    drop_unused(d, old);
    return d;
}

Expected<Drawing> split(const Drawing& drawing, DrawingId id, const Vec2& at) {
    const Element* e = drawing.element(id);
    if (!e) return problem(ProblemCode::Missing, "That element is gone.", "Choose another.");
    auto curve = curve_of(drawing, *e);
    if (!curve || e->kind == ElementKind::Circle)
        return problem(ProblemCode::Geometry, "Only lines and arcs can be split.", "Choose one of those.");
    double t = curve->nearest(at);
    if (t < 1e-6 || t > 1 - 1e-6)
        return problem(ProblemCode::Geometry, "That is an end already.", "Choose a place between the ends.");
    Drawing d = drawing;
    DrawingId middle = d.add_point(curve->at(t));
    Element& mine = *d.element(id);
    std::vector<DrawingId> rest;
    if (e->kind == ElementKind::Line) {
        rest = {middle, mine.points[1]};
        mine.points[1] = middle;
    } else {
        rest = {mine.points[0], middle, mine.points[2]};
        mine.points[2] = middle;
    }
    forget_sizes(d, id);
    DrawingId other = d.add(e->kind, rest);
    d.element(other)->construction = e->construction;
    if (e->kind == ElementKind::Line) d.add(ConstraintKind::Parallel, {id, other});
    return d;
}

Expected<Drawing> round_corner(const Drawing& drawing, DrawingId point, const std::string& radius,
                               const ParameterValues& parameters) {
    auto corner = corner_at(drawing, point);
    if (!corner) return pass_on(corner);
    auto r = length_of(radius, parameters);
    if (!r) return pass_on(r);
    Vec2 p = place(drawing, point), u = (place(drawing, corner->far[0]) - p).normalized(),
         v = (place(drawing, corner->far[1]) - p).normalized();
    double half = std::acos(std::clamp(u.dot(v), -1.0, 1.0)) / 2;
    if (half < 1e-4 || half > std::numbers::pi / 2 - 1e-4)
        return problem(ProblemCode::Geometry, "Those lines run on straight: there is no corner.",
                       "Choose another point.");
    Drawing d = drawing;
    auto ends = open_corner(d, point, *corner, *r / std::tan(half));
    if (!ends) return pass_on(ends);
    DrawingId centre = d.add_point(p + (u + v).normalized() * (*r / std::sin(half)));
    bool ccw = cross2(u, v) < 0; // from the first line's end to the second's
    DrawingId arc = d.add(ElementKind::Arc, {centre, (*ends)[ccw ? 0 : 1], (*ends)[ccw ? 1 : 0]});
    for (DrawingId line : corner->lines) d.add(ConstraintKind::Tangent, {line, arc});
    d.add(ConstraintKind::Radius, {arc}, radius);
    drop_unused(d, point);
    return d;
}

Expected<Drawing> bevel_corner(const Drawing& drawing, DrawingId point, const std::string& size,
                               const ParameterValues& parameters) {
    auto corner = corner_at(drawing, point);
    if (!corner) return pass_on(corner);
    auto along = length_of(size, parameters);
    if (!along) return pass_on(along);
    Drawing d = drawing;
    auto ends = open_corner(d, point, *corner, *along);
    if (!ends) return pass_on(ends);
    // The old corner stays as a point on both lines' carriers, so that its distances can be said.
    d.add(ElementKind::Line, {(*ends)[0], (*ends)[1]});
    if (d.is_point(point) && point != origin_id) {
        DrawingId mark = d.add(ElementKind::Point, {point});
        d.element(mark)->construction = true;
        for (int k = 0; k < 2; ++k) {
            d.add(ConstraintKind::On, {point, corner->lines[k]});
            d.add(ConstraintKind::Distance, {point, (*ends)[size_t(k)]}, size);
        }
    }
    return d;
}

Drawing copied_into(const Drawing& target, const Drawing& source, const std::set<DrawingId>& elements, const Vec2& by,
                    std::vector<DrawingId>* added) {
    Drawing d = target;
    std::map<DrawingId, DrawingId> names;
    for (const Element& e : source.elements) {
        if (!elements.count(e.id)) continue;
        Element copy = e;
        copy.follows = {};
        for (DrawingId& p : copy.points) {
            auto known = names.find(p);
            if (known == names.end()) known = names.emplace(p, d.add_point(place(source, p) + by)).first;
            p = known->second;
        }
        copy.id = d.next_id();
        names[e.id] = copy.id;
        d.elements.push_back(copy);
        if (added) added->push_back(copy.id);
    }
    for (Element& e : d.elements)
        if (added && std::find(added->begin(), added->end(), e.id) != added->end())
            for (DrawingId& of : e.of)
                if (names.count(of)) of = names[of];
    for (const Constraint& c : source.constraints) {
        if (c.of.empty() || !std::all_of(c.of.begin(), c.of.end(), [&](DrawingId id) { return names.count(id) > 0; }))
            continue;
        Constraint copy = c;
        copy.id = d.next_id();
        for (DrawingId& id : copy.of) id = names[id];
        d.constraints.push_back(copy);
    }
    return d;
}

namespace {

/// Copies by a map of the plane; returns old points with their copies.
std::vector<std::pair<DrawingId, DrawingId>> copy_mapped(Drawing& d, const std::set<DrawingId>& elements,
                                                         const Eigen::Affine2d& map,
                                                         std::vector<std::pair<DrawingId, DrawingId>>& rounds) {
    std::map<DrawingId, DrawingId> points;
    std::vector<std::pair<DrawingId, DrawingId>> pairs;
    bool turned_over = map.linear().determinant() < 0;
    std::vector<Element> originals;
    for (const Element& e : d.elements)
        if (elements.count(e.id)) originals.push_back(e);
    for (Element e : originals) {
        DrawingId old = e.id;
        for (DrawingId& p : e.points) {
            auto known = points.find(p);
            if (known == points.end()) {
                known = points.emplace(p, d.add_point(map * place(d, p))).first;
                pairs.emplace_back(p, known->second);
            }
            p = known->second;
        }
        if (turned_over && e.kind == ElementKind::Arc) std::swap(e.points[1], e.points[2]);
        e.follows = {};
        e.id = d.next_id();
        d.elements.push_back(e);
        if (e.kind == ElementKind::Circle || e.kind == ElementKind::Ellipse) rounds.emplace_back(old, e.id);
    }
    return pairs;
}

} // namespace

Expected<Drawing> mirror(const Drawing& drawing, const std::set<DrawingId>& elements, DrawingId line) {
    const Element* e = drawing.element(line);
    Vec2 a(0, 0), b = line == x_axis_id ? Vec2(1, 0) : Vec2(0, 1);
    if (e && e->kind == ElementKind::Line)
        a = place(drawing, e->points[0]), b = place(drawing, e->points[1]);
    else if (line != x_axis_id && line != y_axis_id)
        return problem(ProblemCode::Wording, "There is no line to mirror about.",
                       "Choose the elements and a line, the line last.");
    if (elements.empty() || elements.count(line))
        return problem(ProblemCode::Wording, "There is nothing to mirror.", "Choose elements beside the line.");
    for (DrawingId id : elements)
        if (const Element* m = drawing.element(id); m && m->kind > ElementKind::Point)
            return problem(ProblemCode::Geometry, "Text, files, formulas and offsets cannot be mirrored.",
                           "Mirror what they are made from.");
    Vec2 u = (b - a).normalized();
    Eigen::Affine2d map = Eigen::Affine2d::Identity();
    map.translate(a);
    map.linear() = 2 * u * u.transpose() - Eigen::Matrix2d::Identity();
    map.translate(-a);
    Drawing d = drawing;
    std::vector<std::pair<DrawingId, DrawingId>> rounds;
    for (auto [old, copy] : copy_mapped(d, elements, map, rounds)) {
        // Points on the mirror line are their own pictures: joined.
        if ((place(d, old) - place(d, copy)).norm() < 1e-6) {
            for (Element& x : d.elements)
                for (DrawingId& p : x.points)
                    if (p == copy) p = old;
            d.points.erase(copy);
            continue;
        }
        d.add(ConstraintKind::Symmetric, {old, copy, line});
    }
    for (auto [old, copy] : rounds)
        if (d.element(old)->kind == ElementKind::Circle) d.add(ConstraintKind::Equal, {old, copy});
    // An arc's rim pairs are symmetric already; its own equation makes one of them say too much only where solved
    // twice, which the solver bears.
    return d;
}

Expected<Drawing> repeat_along(const Drawing& drawing, const std::set<DrawingId>& elements, const Vec2& step,
                               int count) {
    if (count < 2 || count > 500)
        return problem(ProblemCode::Range, "A repeat makes 2 to 500 in all.", "Type such a number.");
    if (!(step.norm() > 1e-6))
        return problem(ProblemCode::Range, "The step of the repeat has no length.", "Type a distance.");
    Drawing d = drawing;
    for (int k = 1; k < count; ++k) {
        Eigen::Affine2d map = Eigen::Affine2d::Identity();
        map.translate(step * k);
        std::vector<std::pair<DrawingId, DrawingId>> rounds;
        for (auto [old, copy] : copy_mapped(d, elements, map, rounds)) {
            // Each copy of a point keeps its way from the original.
            for (int axis = 0; axis < 2; ++axis)
                d.add(axis ? ConstraintKind::DistanceY : ConstraintKind::DistanceX, {old, copy},
                      format_quantity(std::fabs(step[axis]) * k, QuantityKind::Length, 6));
        }
        for (auto [old, copy] : rounds)
            if (d.element(old)->kind == ElementKind::Circle) d.add(ConstraintKind::Equal, {old, copy});
    }
    return d;
}

Expected<Drawing> repeat_round(const Drawing& drawing, const std::set<DrawingId>& elements, const Vec2& centre,
                               double angle, int count) {
    if (count < 2 || count > 500)
        return problem(ProblemCode::Range, "A repeat makes 2 to 500 in all.", "Type such a number.");
    if (!(std::fabs(angle) > 1e-6 && std::fabs(angle) <= 360 + 1e-9))
        return problem(ProblemCode::Range, "A repeat goes round by up to 360°.", "Type such an angle.");
    bool whole = std::fabs(angle) > 360 - 1e-9;
    Drawing d = drawing;
    for (int k = 1; k < count; ++k) {
        Eigen::Affine2d map = Eigen::Affine2d::Identity();
        map.translate(centre);
        map.rotate(radians(angle * k / (whole ? count : count - 1)));
        map.translate(-centre);
        std::vector<std::pair<DrawingId, DrawingId>> rounds;
        copy_mapped(d, elements, map, rounds);
        for (auto [old, copy] : rounds)
            if (d.element(old)->kind == ElementKind::Circle) d.add(ConstraintKind::Equal, {old, copy});
    }
    return d;
}

Expected<Drawing> set_true_length(const Drawing& drawing, DrawingId import, const Vec2& from, const Vec2& to,
                                  const std::string& length, const ParameterValues& parameters) {
    const Element* element = drawing.element(import);
    if (!element || element->kind != ElementKind::Import || element->points.empty())
        return problem(ProblemCode::Missing, "There is no file or picture to scale.", "Choose one first.");
    auto wanted = evaluate_expression(length, QuantityKind::Length, parameters);
    if (!wanted) return pass_on(wanted);
    auto scale = evaluate_expression(element_text(*element, "scale"), QuantityKind::Number, parameters);
    if (!scale) return pass_on(scale);
    constexpr double least_mm = 1e-6;
    const double apart = (to - from).norm();
    if (!(apart > least_mm))
        return problem(ProblemCode::Geometry, "The two places are one.", "Click two places some way apart.");
    if (!(*wanted > least_mm))
        return problem(ProblemCode::Range, "A true length is above nought.", "Type what you measured between them.");
    const double by = *wanted / apart;
    Drawing next = drawing;
    next.element(import)->texts["scale"] = format_number(*scale * by, 9);
    if (auto origin = next.points.find(element->points[0]); origin != next.points.end())
        origin->second = from + (origin->second - from) * by;
    return next;
}

} // namespace lp
