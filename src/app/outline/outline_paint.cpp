// How an outline looks: its curves, regions, numbers, what is chosen and what the tool would add.
#include "app/outline/outline_editor.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include "project/references.h"
#include <QPainter>
#include <QPainterPath>

namespace lp {

using theme::Role;

namespace {
constexpr double chord_mm = 0.02;

QColor with_alpha(QColor colour, int alpha) {
    colour.setAlpha(alpha);
    return colour;
}
} // namespace

void OutlineEditor::paint_curves(QPainter& p, const std::vector<SourcedCurve>& curves, const Transform& plane,
                                 const QColor& colour, double width, bool dashed) const {
    QPen pen(colour, width, dashed ? Qt::DashLine : Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin);
    p.setPen(pen);
    p.setBrush(Qt::NoBrush);
    for (const SourcedCurve& c : curves) {
        QPolygonF line;
        for (double t : c.curve.stations(chord_mm)) {
            Vec2 q = c.curve.at(t);
            line << view_->project(plane * Vec3(q.x(), q.y(), 0));
        }
        p.drawPolyline(line);
    }
}

void OutlineEditor::paint_regions(QPainter& p) const {
    if (!shape_) return;
    for (size_t i = 0; i < shape_->arrangement.regions.size(); ++i) {
        bool chosen = std::find(regions_.begin(), regions_.end(), i) != regions_.end();
        if (!chosen && !shape_->filled[i]) continue;
        const FlatRegion& r = shape_->arrangement.regions[i];
        QPainterPath path;
        auto add = [&](const BoundaryLoop& loop) {
            QPolygonF polygon;
            for (const Vec2& q : flatten(curves_of(loop), chord_mm)) polygon << to_view(q);
            path.addPolygon(polygon);
            path.closeSubpath();
        };
        add(r.outer);
        for (const BoundaryLoop& hole : r.holes) add(hole);
        p.setPen(Qt::NoPen);
        if (!chosen) {
            p.setBrush(with_alpha(theme::colour(Role::Brass), 26));
            p.drawPath(path);
            continue;
        }
        // Chosen ones are hatched too: not colour alone.
        p.setBrush(with_alpha(theme::colour(Role::Selected), 70));
        p.drawPath(path);
        p.setBrush(QBrush(with_alpha(theme::colour(Role::Accent), 150), Qt::BDiagPattern));
        p.drawPath(path);
    }
}

void OutlineEditor::paint_elements(QPainter& p) const {
    OutlineInputs inputs;
    inputs.parameters = values();
    auto free = [&](DrawingId id) { return shape_ && shape_->freedom.of.count(id) && shape_->freedom.of.at(id) > 0; };
    for (const Element& e : drawing_.elements) {
        if (is_derived(e.kind)) continue;
        auto curves = element_curves(drawing_, e, inputs);
        if (!curves) continue;
        bool chosen = selected_.count(e.id) > 0;
        QColor colour = chosen              ? theme::colour(Role::Selected)
                        : e.follows.empty() ? theme::colour(Role::Ink)
                                            : theme::colour(Role::GlassEdge);
        paint_curves(p, *curves, plane_, colour, chosen ? 3.2 : free(e.id) ? 1.4 : 2.2, e.construction);
    }
    if (shape_)
        for (const Element& e : drawing_.elements) {
            if (!is_derived(e.kind)) continue;
            std::vector<SourcedCurve> own;
            for (const SourcedCurve& c : shape_->curves)
                if (shape_->owner_of(c.key) == e.id) own.push_back(c);
            bool chosen = selected_.count(e.id) > 0;
            paint_curves(p, own, plane_, theme::colour(chosen ? Role::Selected : Role::Accent), chosen ? 3.2 : 1.8,
                         e.construction);
        }
    // Points: a ring where it may still move, a dot where it is held.
    for (const auto& [id, q] : drawing_.points) {
        QPointF at = to_view(q);
        bool chosen = selected_.count(id) > 0;
        p.setPen(QPen(theme::colour(chosen ? Role::Selected : Role::Ink), chosen ? 2.4 : 1.2));
        p.setBrush(free(id) ? theme::colour(Role::Field) : theme::colour(Role::Ink));
        double r = chosen ? 4.5 : free(id) ? 3.2 : 2.4;
        p.drawEllipse(at, r, r);
    }
    QPointF o = to_view({0, 0});
    p.setPen(QPen(theme::colour(selected_.count(origin_id) ? Role::Selected : Role::Accent), 1.6));
    p.drawLine(o - QPointF(7, 0), o + QPointF(7, 0));
    p.drawLine(o - QPointF(0, 7), o + QPointF(0, 7));
}

QRectF OutlineEditor::label_rect(const Constraint& c) const {
    auto place = [&](DrawingId id) -> Vec2 {
        if (id == origin_id) return {0, 0};
        if (auto found = drawing_.points.find(id); found != drawing_.points.end()) return found->second;
        if (const Element* e = drawing_.element(id)) {
            auto curves = element_curves(drawing_, *e, {});
            if (curves && !curves->empty())
                return curves->front().curve.at(curves->front().curve.end() *
                                                (e->kind == ElementKind::Circle ? 0.125 : 0.5));
        }
        return {0, 0};
    };
    Vec2 at = Vec2::Zero();
    for (DrawingId id : c.of) at += place(id) / double(c.of.size());
    QPointF p = to_view(at);
    // Beside the line, on the side away from the middle of the drawing.
    if (const Element* e = c.of.size() == 1 ? drawing_.element(c.of[0]) : nullptr; e && e->kind == ElementKind::Line) {
        QPointF a = to_view(place(e->points[0])), b = to_view(place(e->points[1])), d = b - a, n(-d.y(), d.x());
        double size = std::max(1.0, std::hypot(n.x(), n.y()));
        Vec2 middle = Vec2::Zero();
        for (const auto& [id, q] : drawing_.points) middle += q / double(std::max<size_t>(1, drawing_.points.size()));
        QPointF m = to_view(middle) - p;
        n *= (QPointF::dotProduct(n, m) > 0 ? -1.0 : 1.0) * 20 / size;
        p += n;
    } else {
        p += QPointF(16, -16);
    }
    double value = measured(drawing_, c);
    QString text = as_shown(format_quantity(std::fabs(value), quantity_of(c.kind), 2));
    double w = QFontMetricsF(theme::numbers(12.5, true)).horizontalAdvance(text) +
               (c.kind == ConstraintKind::Diameter || c.kind == ConstraintKind::Radius ? 26 : 14);
    return {p.x() - w / 2, p.y() - 10, w, 20};
}

std::vector<OutlineEditor::Mark> OutlineEditor::constraint_marks() const {
    static const std::map<ConstraintKind, QString> words{
        {ConstraintKind::Horizontal, "–"},    {ConstraintKind::Vertical, "|"},   {ConstraintKind::Parallel, "∥"},
        {ConstraintKind::Perpendicular, "⊥"}, {ConstraintKind::Equal, "="},      {ConstraintKind::Tangent, "tan"},
        {ConstraintKind::Fixed, "fixed"},     {ConstraintKind::Concentric, "◎"}, {ConstraintKind::Midpoint, "mid"},
        {ConstraintKind::Symmetric, "sym"},   {ConstraintKind::On, "on"}};
    std::vector<Mark> marks;
    std::map<DrawingId, int> used;
    for (const Constraint& c : drawing_.constraints) {
        auto text = words.find(c.kind);
        if (text == words.end()) continue;
        for (DrawingId id : c.of) {
            const Element* e = drawing_.element(id);
            if (!e) continue;
            auto curves = element_curves(drawing_, *e, {});
            if (!curves || curves->empty()) continue;
            const Curve& curve = curves->front().curve;
            QPointF at = to_view(curve.at(curve.end() * 0.62)), ahead = to_view(curve.at(curve.end() * 0.63)),
                    d = ahead - at;
            double size = std::max(1e-6, std::hypot(d.x(), d.y()));
            QPointF along = d / size, side(-along.y(), along.x());
            double width = text->second.size() > 1 ? 30 : 16;
            at += side * 11 + along * 18.0 * used[id]++;
            marks.push_back({c.id, QRectF(at.x() - width / 2, at.y() - 8, width, 16), text->second});
        }
    }
    return marks;
}

void OutlineEditor::paint_constraints(QPainter& p) const {
    for (const Constraint& c : drawing_.constraints) {
        if (!is_dimension(c.kind)) continue;
        QRectF r = label_rect(c);
        QString text = as_shown(format_quantity(std::fabs(measured(drawing_, c)), quantity_of(c.kind), 2));
        if (c.kind == ConstraintKind::Diameter) text = "⌀ " + text;
        if (c.kind == ConstraintKind::Radius) text = "R " + text;
        // Lines from what is measured to the number.
        p.setPen(QPen(with_alpha(theme::colour(Role::BrassRule), 160), 1));
        for (DrawingId id : c.of)
            if (drawing_.is_point(id))
                p.drawLine(to_view(id == origin_id ? Vec2(0, 0) : drawing_.points.at(id)), r.center());
        p.setPen(QPen(theme::colour(selected_.count(c.id) ? Role::Selected : Role::Line), 1));
        p.setBrush(theme::colour(Role::Field));
        p.drawRoundedRect(r, 3, 3);
        p.setPen(theme::colour(Role::Brass));
        p.setFont(theme::numbers(12.5, true));
        p.drawText(r, Qt::AlignCenter, text);
        // Worked out from other numbers: ruled below.
        if (!is_plain_number(c.value)) {
            p.setPen(QPen(theme::colour(Role::BrassRule), 1.4));
            p.drawLine(r.bottomLeft() + QPointF(5, -2), r.bottomRight() + QPointF(-5, -2));
        }
    }
    p.setFont(theme::words(11, QFont::Bold));
    for (const Mark& mark : constraint_marks()) {
        bool chosen = selected_.count(mark.constraint) > 0;
        if (chosen) {
            p.setPen(QPen(theme::colour(Role::Selected), 1.4));
            p.setBrush(theme::colour(Role::Field));
            p.drawRoundedRect(mark.rect, 3, 3);
        }
        p.setPen(theme::colour(chosen ? Role::Selected : Role::SoftInk));
        p.drawText(mark.rect, Qt::AlignCenter, mark.text);
    }
}

void OutlineEditor::paint_crossings(QPainter& p) const {
    if (!shape_ || dragging_) return;
    const auto& crossings = shape_->own_crossings;
    p.setFont(theme::words(11, QFont::Bold));
    for (size_t i = 0; i < std::min<size_t>(crossings.size(), 40); ++i) {
        QPointF at = to_view(crossings[i]);
        p.setPen(QPen(theme::colour(Role::Wrong), 2));
        p.drawLine(at + QPointF(-6, -6), at + QPointF(6, 6));
        p.drawLine(at + QPointF(-6, 6), at + QPointF(6, -6));
        if (i == 0) p.drawText(at + QPointF(9, -7), "crosses itself");
    }
}

void OutlineEditor::paint_tool(QPainter& p) const {
    if (tool_ == DrawTool::Select) return;
    QPointF at = to_view(hover_.at);
    p.setPen(QPen(theme::colour(Role::Accent), 1.4, Qt::DashLine));
    p.setBrush(Qt::NoBrush);
    auto path = [&](const std::vector<Curve>& curves) {
        QPolygonF line;
        for (const Vec2& q : flatten(curves, chord_mm)) line << to_view(q);
        p.drawPolyline(line);
    };
    QString size;
    auto mm = [](double v) { return QString::fromStdString(format_number(v, 2)); };
    if (!clicks_.empty()) {
        Vec2 a = clicks_[0].at, b = hover_.at;
        switch (tool_) {
        case DrawTool::Rectangle:
        case DrawTool::RoundedRectangle:
        case DrawTool::CentredRectangle: {
            Vec2 from = tool_ == DrawTool::CentredRectangle ? Vec2(2 * a - b) : a;
            path({Curve::line(from, {b.x(), from.y()}), Curve::line({b.x(), from.y()}, b),
                  Curve::line(b, {from.x(), b.y()}), Curve::line({from.x(), b.y()}, from)});
            size = mm(std::fabs(b.x() - from.x())) + " x " + mm(std::fabs(b.y() - from.y())) + " mm";
            break;
        }
        case DrawTool::Circle:
        case DrawTool::Polygon:
        case DrawTool::PolygonOverFlats:
            if ((b - a).norm() > 1e-9) path({Curve::circle(a, (b - a).norm())});
            size = "⌀ " + mm(2 * (b - a).norm()) + " mm";
            break;
        case DrawTool::Arc:
            if (clicks_.size() == 2)
                path({Curve::arc_through(a, b, clicks_[1].at)});
            else
                path({Curve::line(a, b)});
            break;
        case DrawTool::CentreArc:
            if (clicks_.size() == 2 && (b - a).norm() > 1e-9)
                path({Curve::arc_between(a, clicks_[1].at, b, true)});
            else
                path({Curve::line(a, b)});
            break;
        case DrawTool::Spline: {
            std::vector<Vec2> through;
            for (const Snap& s : clicks_) through.push_back(s.at);
            if ((through.back() - b).norm() > 1e-6) through.push_back(b);
            if (through.size() > 1) path({Curve::spline(through, false)});
            break;
        }
        default: {
            Vec2 d = b - clicks_.back().at;
            path({Curve::line(clicks_.back().at, b)});
            size = mm(d.norm()) + " mm · " + QString::number(degrees(std::atan2(d.y(), d.x())), 'f', 1) + "°";
        }
        }
    }
    p.setPen(QPen(theme::colour(Role::Accent), 1.6));
    if (hover_.point)
        p.drawRect(QRectF(at.x() - 6, at.y() - 6, 12, 12));
    else if (hover_.element)
        p.drawEllipse(at, 6, 6);
    p.drawLine(at - QPointF(4, 0), at + QPointF(4, 0));
    p.drawLine(at - QPointF(0, 4), at + QPointF(0, 4));
    if (!size.isEmpty()) {
        size = as_shown(size);
        p.setFont(theme::numbers(12.5, true));
        QRectF r(at.x() + 14, at.y() + 12, QFontMetricsF(p.font()).horizontalAdvance(size) + 14, 21);
        p.setPen(theme::colour(Role::Line));
        p.setBrush(theme::colour(Role::Card));
        p.drawRoundedRect(r, 3, 3);
        p.setPen(theme::colour(Role::Ink));
        p.drawText(r, Qt::AlignCenter, size);
    }
}

void OutlineEditor::paint(QPainter& p) {
    if (active()) {
        if (!plane_known_) return;
        paint_pictures(p);
        paint_regions(p);
        paint_elements(p);
        paint_constraints(p);
        paint_crossings(p);
        paint_tool(p);
        return;
    }
    // Outlines nothing has grown from yet stay in sight while shaping.
    const PartResult* part = session_->results().evaluation()
                                 ? session_->results().evaluation()->part(session_->workspace().active_part())
                                 : nullptr;
    PartPtr source = session_->project()->part(session_->workspace().active_part());
    if (!part || !source || session_->workspace().stretch() != Stretch::Shape) return;
    for (const PlacedOutline& outline : part->outlines) {
        bool used = false, before = true;
        for (const Step& s : source->steps) {
            const StepKind* kind = find_step_kind(s.kind);
            if (s.id == outline.step) before = false;
            if (before || s.id == outline.step || !kind || kind->draws()) continue;
            each_reference(*session_->project(), *source, s, [&](const Reference& r) {
                used = used || (r.to == RefersTo::Step && r.step == outline.step);
            });
            // An empty field means the last one drawn.
            const StepField* grown = kind->field_of(FieldKind::Regions) ? kind->field_of(FieldKind::Outline) : nullptr;
            used = used || (grown && field_text(s, *grown).empty());
        }
        if (used) continue;
        paint_curves(p, outline.shape->curves, outline.plane, theme::colour(Role::Accent), 1.6, false);
        paint_curves(p, outline.shape->construction, outline.plane, theme::colour(Role::SoftInk), 1.2, true);
    }
}

} // namespace lp
