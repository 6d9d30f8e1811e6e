// The drawing tools: what each click adds, and sizes typed on the way.
#include "app/outline/outline_editor.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/view_widget.h"
#include "steps/outlines/edge_in_plane.h"
#include "steps/step_kind.h"
#include <QLineEdit>

namespace lp {

using theme::Role;

void OutlineEditor::set_tool(DrawTool tool) {
    if (tool == DrawTool::Silhouette) return take_silhouette(); // nothing to point at
    if (tool == DrawTool::TrueLength && !choose_what_to_scale()) return;
    finish_tool();
    tool_ = tool;
    chain_start_ = last_line_ = 0;
    selected_.clear();
    select_order_.clear();
    if (tool != DrawTool::Select) regions_.clear();
    view_->setFocus();
    emit changed();
}

void OutlineEditor::finish_tool() {
    if (tool_ == DrawTool::Spline && clicks_.size() >= 2) {
        Drawing next = drawing_;
        std::vector<DrawingId> points;
        bool closed = clicks_.size() > 3 && (clicks_.front().at - clicks_.back().at).norm() < near_mm();
        if (closed) clicks_.pop_back();
        for (const Snap& s : clicks_)
            if (DrawingId id = s.point ? *s.point : next.add_point(s.at); points.empty() || points.back() != id)
                points.push_back(id);
        if (points.size() >= 2) {
            DrawingId id = next.add(ElementKind::Spline, points);
            next.element(id)->closed = closed;
            clicks_.clear();
            commit(next, "Drew a spline");
        }
    }
    clicks_.clear();
    chain_start_ = last_line_ = 0;
    emit changed();
}

bool OutlineEditor::place_line(const Snap& to, const std::string& length, const std::string& angle) {
    const Snap& from = clicks_.back();
    if ((to.at - from.at).norm() < 1e-6) {
        finish_tool();
        return false;
    }
    Drawing next = drawing_;
    DrawingId a = from.point ? *from.point : next.add_point(from.at), b = to.point ? *to.point : next.add_point(to.at);
    if (from.element && !from.point)
        next.add(from.words == "middle" ? ConstraintKind::Midpoint : ConstraintKind::On, {a, *from.element});
    if (to.element && !to.point)
        next.add(to.words == "middle" ? ConstraintKind::Midpoint : ConstraintKind::On, {b, *to.element});
    DrawingId line;
    if (tool_ == DrawTool::TangentArc && last_line_) {
        // Leaves in the direction the chain came in: centre on the normal there, as far from both ends.
        const Element* before = next.element(last_line_);
        auto curves = element_curves(next, *before, {});
        if (!curves) return false;
        const Curve& c = curves->front().curve;
        bool at_last = (c.last() - from.at).norm() < 1e-6;
        Vec2 u = at_last ? c.derivative(c.end()).normalized() : Vec2(-c.derivative(0).normalized()),
             w = to.at - from.at;
        Vec2 n(-u.y(), u.x());
        double off = w.dot(n);
        if (std::fabs(off) < 1e-6) return false;
        double r = w.squaredNorm() / (2 * off);
        DrawingId centre = next.add_point(from.at + n * r);
        line = r > 0 ? next.add(ElementKind::Arc, {centre, a, b}) : next.add(ElementKind::Arc, {centre, b, a});
        next.add(ConstraintKind::Tangent, {last_line_, line});
    } else {
        line = next.add(ElementKind::Line, {a, b});
        if (to.level && angle.empty()) next.add(ConstraintKind::Horizontal, {line});
        if (to.upright && angle.empty()) next.add(ConstraintKind::Vertical, {line});
        if (!length.empty()) next.add(ConstraintKind::Length, {line}, length);
        if (!angle.empty()) next.add(ConstraintKind::Angle, {line}, angle);
    }
    if (!commit(next, tool_ == DrawTool::TangentArc ? "Drew an arc" : "Drew a line")) return false;
    if (!chain_start_) chain_start_ = a;
    last_line_ = line;
    if (b == chain_start_) {
        finish_tool();
        return true;
    }
    Snap here;
    here.point = b;
    here.at = drawing_.points.count(b) ? drawing_.points.at(b) : Vec2(0, 0);
    clicks_ = {here};
    emit changed();
    return true;
}

/// Figures of two clicks; sizes as typed become dimensions.
bool OutlineEditor::place_two(const Snap& to, const std::string& first, const std::string& second) {
    const Snap from = clicks_.front();
    if ((to.at - from.at).norm() < 1e-6) return false;
    Drawing next = drawing_;
    double same = 1e-6;
    QString sentence;
    auto dimension = [&](ConstraintKind kind, DrawingId of, const std::string& text) {
        if (!text.empty()) next.add(kind, {of}, text);
    };
    switch (tool_) {
    case DrawTool::Rectangle:
    case DrawTool::RoundedRectangle:
    case DrawTool::CentredRectangle: {
        if (std::fabs(to.at.x() - from.at.x()) < 1e-6 || std::fabs(to.at.y() - from.at.y()) < 1e-6) return false;
        DrawnElements lines;
        if (tool_ == DrawTool::Rectangle) lines = add_rectangle(next, from.at, to.at, same);
        if (tool_ == DrawTool::CentredRectangle) lines = add_centred_rectangle(next, from.at, to.at, same);
        if (tool_ == DrawTool::RoundedRectangle) {
            Vec2 size = (to.at - from.at).cwiseAbs();
            lines = add_rounded_rectangle(next, from.at, to.at, std::min({size.x(), size.y(), 12.0}) / 4);
        }
        dimension(ConstraintKind::Length, lines[0], tool_ == DrawTool::RoundedRectangle ? "" : first);
        dimension(ConstraintKind::Length, lines[1], tool_ == DrawTool::RoundedRectangle ? "" : second);
        sentence = "Drew a rectangle";
        break;
    }
    case DrawTool::Circle: {
        DrawingId centre = from.point ? *from.point : next.add_point(from.at);
        DrawingId circle = next.add(ElementKind::Circle, {centre}, (to.at - from.at).norm());
        dimension(ConstraintKind::Diameter, circle, first);
        sentence = "Drew a circle";
        break;
    }
    case DrawTool::Slot: {
        DrawnElements slot = add_slot(next, from.at, to.at, (to.at - from.at).norm() / 6);
        if (!first.empty())
            next.add(ConstraintKind::Distance, {next.element(slot[1])->points[0], next.element(slot[3])->points[0]},
                     first);
        dimension(ConstraintKind::Radius, slot[1], second.empty() ? "" : "(" + second + ") / 2");
        sentence = "Drew a slot";
        break;
    }
    case DrawTool::Polygon:
    case DrawTool::PolygonOverFlats: {
        DrawnElements lines = add_polygon(next, from.at, to.at, sides_, tool_ == DrawTool::PolygonOverFlats);
        dimension(ConstraintKind::Diameter, lines.back(), first);
        sentence = QString("Drew a polygon with %1 sides").arg(sides_);
        break;
    }
    default:
        return false;
    }
    clicks_.clear();
    return commit(next, sentence);
}

/// An arc or ellipse through the three places clicked.
void OutlineEditor::place_three() {
    Drawing next = drawing_;
    Vec2 a = clicks_[0].at, b = clicks_[1].at, c = clicks_[2].at;
    if (tool_ == DrawTool::Arc) {
        add_arc_through(next, a, c, b, 1e-6); // both ends, then a place on it
    } else if (tool_ == DrawTool::CentreArc) {
        DrawingId centre = clicks_[0].point ? *clicks_[0].point : next.add_point(a);
        Vec2 end = a + (c - a).normalized() * (b - a).norm();
        DrawingId from = clicks_[1].point ? *clicks_[1].point : next.add_point(b);
        next.add(ElementKind::Arc, {centre, from, next.add_point(end)});
    } else {
        double minor = std::fabs(cross2((b - a).normalized(), c - a));
        if ((b - a).norm() < 1e-6 || minor < 1e-6) {
            clicks_.pop_back();
            return;
        }
        next.add(ElementKind::Ellipse, {clicks_[0].point ? *clicks_[0].point : next.add_point(a), next.add_point(b)},
                 minor);
    }
    clicks_.clear();
    commit(next, tool_ == DrawTool::Ellipse ? "Drew an ellipse" : "Drew an arc");
}

/// Letters or a formula at a place: a box asks for them.
void OutlineEditor::ask_for_words(const Snap& at) {
    bool text = tool_ == DrawTool::Text;
    open_box(to_view(at.at), {}, text ? "letters to write" : "radius by height, such as 6 + 0.02 * h^2",
             [this, at, text](const QString& words) {
                 Drawing next = drawing_;
                 DrawingId id = next.add(text ? ElementKind::Text : ElementKind::Formula,
                                         {at.point ? *at.point : next.add_point(at.at)});
                 if (text)
                     next.element(id)->texts = {{"text", words.toStdString()},
                                                {"size", "8 mm"},
                                                {"spacing", "0 mm"},
                                                {"angle", "0 deg"},
                                                {"font", "Manrope Bold"}};
                 else
                     next.element(id)->texts = {
                         {"axis", "x of y"}, {"expression", words.toStdString()}, {"from", "0 mm"}, {"to", "20 mm"}};
                 OutlineInputs inputs;
                 inputs.parameters = values();
                 if (auto curves = element_curves(next, *next.element(id), inputs); !curves)
                     return say_wrong(curves.error());
                 if (commit(next, text ? "Wrote \"" + words + "\"" : "Drew a formula")) {
                     set_tool(DrawTool::Select);
                     select(id, false);
                 }
             });
}

void OutlineEditor::click(const Snap& at) {
    auto alter = [&](Expected<Drawing> next, const QString& sentence) {
        if (!next) return say_wrong(next.error());
        commit(*next, sentence);
    };
    switch (tool_) {
    case DrawTool::Line:
    case DrawTool::TangentArc:
        if (clicks_.empty())
            clicks_.push_back(at);
        else
            place_line(at);
        break;
    case DrawTool::Point: {
        Drawing next = drawing_;
        next.add(ElementKind::Point, {at.point ? *at.point : next.add_point(at.at)});
        commit(next, "Drew a point");
        break;
    }
    case DrawTool::Arc:
    case DrawTool::CentreArc:
    case DrawTool::Ellipse:
        clicks_.push_back(at);
        if (clicks_.size() == 3) place_three();
        break;
    case DrawTool::Spline:
        clicks_.push_back(at);
        if (clicks_.size() > 3 && (clicks_.front().at - at.at).norm() < near_mm()) finish_tool();
        break;
    case DrawTool::Text:
    case DrawTool::Formula:
        ask_for_words(at);
        break;
    case DrawTool::Trim:
    case DrawTool::Extend:
    case DrawTool::Split: {
        auto element = element_at(to_view(at.at));
        if (!element) break;
        if (tool_ == DrawTool::Trim) alter(trim(drawing_, *element, at.at), "Trimmed");
        if (tool_ == DrawTool::Extend) alter(extend(drawing_, *element, at.at), "Extended");
        if (tool_ == DrawTool::Split) alter(split(drawing_, *element, at.at), "Split");
        break;
    }
    case DrawTool::TrueLength:
        clicks_.push_back(at);
        if (clicks_.size() == 2) ask_true_length();
        break;
    default:
        if (clicks_.empty())
            clicks_.push_back(at);
        else
            place_two(at);
    }
    emit changed();
}

void OutlineEditor::open_box(const QPointF& at, const QString& source, const QString& hint,
                             std::function<void(const QString&)> done, std::optional<QuantityKind> kind) {
    if (box_) box_->deleteLater();
    const QString text = kind ? to_edit(source, *kind) : source;
    auto* box = new QLineEdit(text, view_);
    box_ = box;
    box->setPlaceholderText(hint);
    box->setAccessibleName(hint);
    box->setToolTip(hint);
    box->setFont(theme::numbers(13));
    int width = std::max(110, QFontMetrics(box->font()).horizontalAdvance(text.isEmpty() ? hint : text) + 36);
    box->resize(std::min(width, 360), 28);
    box->move(std::clamp(int(at.x()) + 12, 4, std::max(4, view_->width() - box->width() - 4)),
              std::clamp(int(at.y()) - 14, 4, std::max(4, view_->height() - 32)));
    box->show();
    box->setFocus();
    if (text.size() > 1) box->selectAll();
    connect(box, &QLineEdit::returnPressed, this, [this, box, done, kind, text, source] {
        QString typed = box->text().trimmed();
        if (kind) typed = typed == text ? source : as_typed(typed, *kind, values());
        box_ = nullptr;
        box->deleteLater();
        view_->setFocus();
        if (!typed.isEmpty()) done(typed);
    });
    connect(box, &QLineEdit::editingFinished, box, [this, box] {
        if (box_ == box && !box->hasFocus()) box_ = nullptr, box->deleteLater();
    });
}

void OutlineEditor::typed(const QString& start) {
    QString hint;
    switch (tool_) {
    case DrawTool::Line:
        hint = "length, angle";
        break;
    case DrawTool::Circle:
    case DrawTool::Polygon:
    case DrawTool::PolygonOverFlats:
        hint = "diameter";
        break;
    case DrawTool::Slot:
        hint = "length between centres, width";
        break;
    case DrawTool::Rectangle:
    case DrawTool::CentredRectangle:
        hint = "width, height";
        break;
    default:
        return;
    }
    Snap target = hover_;
    if (clicks_.empty()) return;
    open_box(to_view(hover_.at), start, hint, [this, target](const QString& text) {
        if (clicks_.empty()) return;
        const bool second_is_angle = tool_ == DrawTool::Line;
        const QuantityKind second_kind = second_is_angle ? QuantityKind::Angle : QuantityKind::Length;
        QStringList parts = text.split(',');
        std::string first = as_typed(parts[0].trimmed(), QuantityKind::Length, values()).toStdString(), second;
        if (parts.size() > 1) second = as_typed(parts[1].trimmed(), second_kind, values()).toStdString();
        auto a = evaluate_expression(first, QuantityKind::Length, values());
        Expected<double> b = 0;
        if (!second.empty()) b = evaluate_expression(second, second_kind, values());
        if (!a || !b) return say_wrong(!a ? a.error() : b.error());
        if (!(*a > 0)) return session_->say("A size is above 0. Type another.", true);
        Vec2 from = clicks_.back().at, d = target.at - from;
        if (d.norm() < 1e-6) d = Vec2::UnitX();
        Snap to = target;
        to.point.reset();
        to.element.reset();
        if (tool_ == DrawTool::Line) {
            Vec2 u = second.empty() ? Vec2(d.normalized()) : Vec2(std::cos(radians(*b)), std::sin(radians(*b)));
            to.at = from + u * *a;
            place_line(to, first, second);
            return;
        }
        if (tool_ == DrawTool::Rectangle || tool_ == DrawTool::CentredRectangle) {
            double h = second.empty() ? std::fabs(d.y()) : *b, half = tool_ == DrawTool::CentredRectangle ? 0.5 : 1;
            if (h < 1e-6) h = *a;
            to.at = from + Vec2(std::copysign(*a * half, d.x()), std::copysign(h * half, d.y()));
        } else if (tool_ == DrawTool::Slot) {
            to.at = from + d.normalized() * *a;
        } else {
            to.at = from + d.normalized() * *a / 2;
        }
        place_two(to, first, second);
        emit changed();
    });
    box_->setCursorPosition(int(start.size()));
    box_->deselect();
}

void OutlineEditor::take_edge(const QPointF& at) {
    // The bodies as this outline found them: later steps' edges cannot be followed.
    const PartResult* part = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    if (!part || !part->before.count(step_)) return;
    double nearest = 12;
    std::optional<std::pair<size_t, size_t>> best;
    const auto& bodies = part->before.at(step_);
    for (size_t b = 0; b < bodies.size(); ++b) {
        const auto& edges = bodies[b].body.tessellation().edges;
        for (size_t e = 0; e < edges.size(); ++e)
            for (size_t k = 0; k + 1 < edges[e].points.size(); ++k) {
                QPointF p = view_->project(edges[e].points[k]), q = view_->project(edges[e].points[k + 1]), d = q - p;
                double len = std::max(1e-9, d.x() * d.x() + d.y() * d.y());
                double s = std::clamp(((at.x() - p.x()) * d.x() + (at.y() - p.y()) * d.y()) / len, 0.0, 1.0);
                QPointF foot = p + s * d;
                // Among edges over each other the nearest to the drawing's plane.
                double height = std::fabs((plane_.inverse() * edges[e].points[k]).z());
                double off = std::hypot(foot.x() - at.x(), foot.y() - at.y()) + std::min(3.0, height * 0.05);
                if (off < nearest) nearest = off, best = std::pair(b, e);
            }
    }
    if (!best) return session_->say("There is no edge of the part there.", true);
    const Body& body = bodies[best->first].body;
    const EdgeInfo& edge = body.tessellation().edges[best->second];
    auto curve = edge_in_plane(edge, plane_);
    if (!curve) return say_wrong(curve.error());
    Drawing next = drawing_;
    DrawingId id;
    // Ends are shared with edges taken before, never with the origin or drawn points: the part moves these.
    auto end = [&](const Vec2& p) {
        for (const Element& e : next.elements)
            if (!e.follows.empty())
                for (DrawingId q : e.points)
                    if ((next.points.at(q) - p).norm() < 1e-6) return q;
        return next.add_point(p);
    };
    if (curve->kind == Curve::Kind::Line) {
        DrawingId first = end(curve->first());
        id = next.add(ElementKind::Line, {first, end(curve->last())});
    } else if (curve->closed()) {
        id = next.add(ElementKind::Circle, {next.add_point(curve->centre)}, curve->radius);
    } else {
        Vec2 from = curve->sweep > 0 ? curve->first() : curve->last(),
             to = curve->sweep > 0 ? curve->last() : curve->first();
        DrawingId centre = next.add_point(curve->centre), first = end(from);
        id = next.add(ElementKind::Arc, {centre, first, end(to)});
    }
    next.element(id)->follows =
        GeometryItem(make_edge_reference(body, best->second, edge.points[edge.points.size() / 2]));
    commit(next, "Took an edge into the outline");
}

void OutlineEditor::take_silhouette() {
    Drawing next = drawing_;
    DrawingId id = next.add(ElementKind::Silhouette, {});
    next.element(id)->texts = {{"bodies", "all"}};
    const PartResult* part = session_->results().evaluation() ? session_->results().evaluation()->part(part_) : nullptr;
    if (!part || !part->before.count(step_) || part->before.at(step_).empty())
        return session_->say("There is no body before this outline whose silhouette could be taken.", true);
    set_tool(DrawTool::Select);
    if (commit(next, "Took the part's silhouette")) select(id, false);
}

void OutlineEditor::edit_dimension(DrawingId id) {
    const Constraint* c = drawing_.constraint(id);
    if (!c) return;
    std::string kind = constraint_kind_name(c->kind);
    std::replace(kind.begin(), kind.end(), '_', ' ');
    open_box(
        label_rect(*c).topLeft() - QPointF(12, -14), QString::fromStdString(c->value), QString::fromStdString(kind),
        [this, id](const QString& text) {
            Drawing next = drawing_;
            QString name;
            for (Constraint& mine : next.constraints)
                if (mine.id == id)
                    mine.value = text.toStdString(),
                    name = QString::fromStdString(constraint_kind_name(mine.kind)).replace('_', ' ');
            commit(next, QString("Outline: %1 to %2").arg(name, text));
        },
        quantity_of(c->kind));
}

} // namespace lp
