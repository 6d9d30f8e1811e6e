#include "app/view/size_handles.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

namespace lp {

using theme::Role;
using Shape = SizeHandle::Shape;

namespace {
constexpr double grip_px = 9, dial_px = 62, beyond_px = 24;
}

SizeHandles::SizeHandles(ViewWidget* view) : view_(view) {
    pause_.setSingleShot(true);
    pause_.setInterval(150);
    QObject::connect(&pause_, &QTimer::timeout, view, [this] {
        if (taken_ && changing) changing(*target_, target_->sizes[*taken_].handle.field, text());
    });
}

void SizeHandles::set_target(std::optional<Target> target) {
    if (busy()) return;
    target_ = std::move(target);
    hover_.reset();
    view_->update();
}

double SizeHandles::shown_value(const Size& size) const {
    if (!taken_ || &size != &target_->sizes[*taken_]) return size.value;
    if (typed_.isEmpty()) return value_;
    const QuantityKind kind = is_dial(size) ? QuantityKind::Angle : QuantityKind::Length;
    auto typed = evaluate_expression(as_typed(typed_, kind, {}).toStdString(), kind, {});
    return typed ? *typed : value_;
}

/// Across the axis of a ring or a dial, as far to the right in the picture as it goes.
Vec3 SizeHandles::beside(const Size& size) const {
    const Vec3 way = size.handle.way.normalized(), forward = view_->camera().forward();
    Vec3 right = forward.cross(Vec3::UnitZ());
    if (right.norm() < 1e-6) right = Vec3::UnitX();
    Vec3 across = right - right.dot(way) * way;
    if (across.norm() < 1e-3) across = way.unitOrthogonal();
    return across.normalized();
}

QPointF SizeHandles::tip_of(const Size& size) const {
    const SizeHandle& h = size.handle;
    const double value = shown_value(size);
    if (h.shape == Shape::Arrow) return view_->project(h.from + h.way * value / h.gain);
    if (h.shape == Shape::Ring) return view_->project(h.from + beside(size) * std::max(0.0, value) / h.gain);
    const double reach = dial_px * view_->camera().pixel_mm(view_->size());
    const double turned = taken_ && &size == &target_->sizes[*taken_] ? value - begun_ : 0;
    return view_->project(h.from + Eigen::AngleAxisd(radians(turned), h.way) * (beside(size) * reach));
}

std::optional<QPointF> SizeHandles::grip_of(const Size& size) const {
    const SizeHandle& h = size.handle;
    if (is_dial(size)) return tip_of(size);
    const double beyond = beyond_px * view_->camera().pixel_mm(view_->size());
    const Vec3 way = h.shape == Shape::Ring ? beside(size) : Vec3(h.way * (shown_value(size) < 0 ? -1 : 1));
    const double reach = std::fabs(shown_value(size)) / h.gain;
    const QPointF tip = tip_of(size), grip = view_->project(h.from + way * (reach + beyond));
    if (std::hypot(grip.x() - tip.x(), grip.y() - tip.y()) < beyond_px * 0.35) return std::nullopt;
    return grip;
}

QPointF SizeHandles::grip(const std::string& field) const {
    if (target_)
        for (const Size& size : target_->sizes)
            if (size.handle.field == field) return grip_of(size).value_or(QPointF());
    return {};
}

std::optional<size_t> SizeHandles::at(const QPointF& place) const {
    std::optional<size_t> best;
    double nearest = grip_px;
    for (size_t i = 0; target_ && i < target_->sizes.size(); ++i) {
        const auto grip = grip_of(target_->sizes[i]);
        if (!grip) continue;
        if (double off = std::hypot(grip->x() - place.x(), grip->y() - place.y()); off < nearest)
            nearest = off, best = i;
    }
    return best;
}

std::optional<double> SizeHandles::along(const Size& size, const QPointF& place) const {
    const Camera::Ray ray = view_->camera().ray(place, view_->size());
    const SizeHandle& h = size.handle;
    const Vec3 d = ray.direction.normalized();
    if (h.shape == Shape::Arrow) { // the place on its line nearest to the ray
        const double b = h.way.dot(d), denominator = 1 - b * b;
        if (denominator < 1e-4) return std::nullopt; // looked along
        const Vec3 w = h.from - ray.origin;
        return (b * d.dot(w) - h.way.dot(w)) / denominator;
    }
    const double facing = d.dot(h.way);
    Vec3 p;
    if (std::fabs(facing) > 0.05) {
        p = ray.origin + d * ((h.from - ray.origin).dot(h.way) / facing) - h.from;
    } else { // seen from its edge: the place on the line across
        const Vec3 across = beside(size), w = h.from - ray.origin;
        const double b = across.dot(d);
        p = across * ((b * d.dot(w) - across.dot(w)) / std::max(1e-4, 1 - b * b));
    }
    if (h.shape == Shape::Ring) return p.norm();
    const Vec3 x = beside(size);
    return degrees(std::atan2(p.dot(h.way.cross(x)), p.dot(x)));
}

/// Whole steps that suit the zoom, within the limits of the field.
double SizeHandles::snapped(const Size& size, double value) const {
    double step = 1;
    if (is_dial(size)) {
        const double even = std::round(value / 15) * 15;
        step = std::fabs(even - value) < 2 ? 15 : 1;
    } else {
        const double pixel = view_->camera().pixel_mm(view_->size());
        step = (pixel > 0.2 ? 1 : pixel > 0.02 ? 0.1 : 0.01) * length_step_mm();
    }
    value = std::round(value / step) * step;
    if (size.low == size.high) return value;
    return std::clamp(value, std::max(size.low, std::min(step, size.high)), size.high);
}

std::string SizeHandles::text() const {
    const Size& size = target_->sizes[*taken_];
    const QuantityKind kind = is_dial(size) ? QuantityKind::Angle : QuantityKind::Length;
    if (!typed_.isEmpty()) return as_typed(typed_, kind, {}).toStdString();
    return format_number(value_, 4) + (is_dial(size) ? " deg" : " mm");
}

QString SizeHandles::words() const {
    if (!taken_ && !hover_) return {};
    const Size& size = target_->sizes[taken_ ? *taken_ : *hover_];
    if (!size.formula.isEmpty()) return size.words + " = " + size.formula;
    if (taken_ && !typed_.isEmpty()) return size.words + " " + typed_ + "▏";
    const QuantityKind kind = is_dial(size) ? QuantityKind::Angle : QuantityKind::Length;
    return size.words + " " + as_shown(format_quantity(shown_value(size), kind));
}

void SizeHandles::tell() {
    pause_.start();
    view_->update();
}

void SizeHandles::keep() {
    pause_.stop();
    const Target target = *target_;
    const std::string field = target.sizes[*taken_].handle.field, said = text();
    const bool same = typed_.isEmpty() && std::fabs(value_ - target.sizes[*taken_].value) < 1e-9;
    taken_.reset();
    held_ = false;
    typed_.clear();
    if (same)
        dropped ? dropped() : void();
    else if (kept)
        kept(target, field, said);
    view_->update();
}

void SizeHandles::drop() {
    pause_.stop();
    taken_.reset();
    held_ = false;
    typed_.clear();
    if (dropped) dropped();
    view_->update();
}

bool SizeHandles::press(QMouseEvent* event) {
    if (!target_ || event->button() != Qt::LeftButton || event->modifiers()) return false;
    const auto found = at(event->position());
    if (busy() && found != taken_) keep(); // a click elsewhere takes what is there
    if (!found) return false;
    const Size& size = target_->sizes[*found];
    if (!size.formula.isEmpty()) {
        if (said) said(size.words + " is worked out from " + size.formula + ": change that, or type over it.");
        return true;
    }
    taken_ = found;
    held_ = true;
    dragged_ = false;
    typed_.clear();
    press_ = event->position();
    value_ = begun_ = size.value;
    view_->update();
    return true;
}

bool SizeHandles::move(QMouseEvent* event) {
    if (!target_) return false;
    if (!held_) {
        const auto now = at(event->position());
        if (now != hover_) view_->update();
        hover_ = now;
        return now.has_value();
    }
    if ((event->position() - press_).manhattanLength() > 3) dragged_ = true;
    if (!dragged_ || !typed_.isEmpty()) return true;
    const Size& size = target_->sizes[*taken_];
    const auto from = along(size, press_), to = along(size, event->position());
    if (!from || !to) return true;
    double by = *to - *from;
    if (is_dial(size)) by = std::remainder(by, 360);
    value_ = snapped(size, size.value + by * size.handle.gain);
    tell();
    return true;
}

bool SizeHandles::release(QMouseEvent*) {
    if (!held_) return false;
    held_ = false;
    if (dragged_ && typed_.isEmpty()) keep(); // pressed without a drag it waits for a number
    return true;
}

bool SizeHandles::key(QKeyEvent* event) {
    if (!busy()) return false;
    if (event->key() == Qt::Key_Escape) return drop(), true;
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) return keep(), true;
    if (event->key() == Qt::Key_Backspace)
        typed_.chop(1);
    else if (!event->text().isEmpty() && event->text()[0].isPrint() &&
             !(event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)))
        typed_ += event->text();
    else
        return false;
    tell();
    return true;
}

void SizeHandles::paint_size(QPainter& p, const Size& size, bool hot) const {
    const SizeHandle& h = size.handle;
    const QColor ink = theme::colour(hot ? Role::Accent : size.formula.isEmpty() ? Role::Brass : Role::SoftInk);
    const QPointF tip = tip_of(size);
    const auto grip = grip_of(size);
    auto stroke = [&](auto&& draw) { // on a light rim, so that it is seen on any plastic
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::colour(Role::Card), hot ? 5 : 4, Qt::SolidLine, Qt::RoundCap));
        draw();
        p.setPen(QPen(ink, hot ? 2.4 : 1.6, Qt::SolidLine, Qt::RoundCap));
        draw();
    };
    if (h.shape == Shape::Arrow) {
        const double back = h.gain == 2 ? -1 : 0; // one that grows both ways is measured from its other end
        const QPointF from = view_->project(h.from + back * h.way * shown_value(size) / h.gain), way = tip - from;
        const double length = std::hypot(way.x(), way.y());
        const QPointF across = length < 1 ? QPointF(0, 0) : QPointF(-way.y(), way.x()) / length * 8;
        stroke([&] {
            p.drawLine(from, tip);
            p.drawLine(from - across, from + across);
            p.drawLine(tip - across, tip + across);
            if (grip) p.drawLine(tip, *grip);
        });
    } else {
        QPainterPath arc;
        const double radius = h.shape == Shape::Ring ? std::max(0.0, shown_value(size)) / h.gain
                                                     : dial_px * view_->camera().pixel_mm(view_->size());
        const Vec3 x = beside(size), y = h.way.cross(x);
        const int pieces = 64;
        for (int i = 0; i <= pieces; ++i) {
            const double a = 2 * std::numbers::pi * i / pieces;
            const QPointF at = view_->project(h.from + radius * (std::cos(a) * x + std::sin(a) * y));
            i ? arc.lineTo(at) : arc.moveTo(at);
        }
        stroke([&] {
            p.drawPath(arc);
            if (h.shape == Shape::Dial) p.drawLine(view_->project(h.from), tip);
            if (h.shape == Shape::Ring && grip) p.drawLine(tip, *grip);
        });
    }
    p.setPen(QPen(ink, 1.6));
    p.setBrush(theme::colour(size.formula.isEmpty() ? Role::Card : Role::Line));
    if (grip) p.drawEllipse(*grip, hot ? 6.0 : 5.0, hot ? 6.0 : 5.0);
}

void SizeHandles::paint(QPainter& p) {
    if (!target_) return;
    const auto hot = taken_ ? taken_ : hover_;
    for (size_t i = 0; i < target_->sizes.size(); ++i)
        if (!taken_ || taken_ == i) paint_size(p, target_->sizes[i], hot == i);
    if (!hot) return;
    paint_number_beside(p, grip_of(target_->sizes[*hot]).value_or(tip_of(target_->sizes[*hot])), words(),
                        view_->width(), taken_.has_value());
}

} // namespace lp
