#include "app/view/brush_handle.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <numbers>

namespace lp {

using theme::Role;

void BrushHandle::set_target(std::optional<Target> target) {
    if (stroking_) return;
    target_ = std::move(target);
    if (target_ && target_->to_view.empty()) target_.reset();
    if (!target_) under_.reset();
    if (target_) copy_ = std::min(copy_, target_->to_view.size() - 1);
}

/// The rim of a dab, lying on the surface.
void BrushHandle::paint_ring(QPainter& p, const Touch& touch, bool in_hand) const {
    constexpr int corners = 28;
    const Vec3 out = touch.out.normalized(),
               aside = out.cross(std::fabs(out.z()) < 0.9 ? Vec3::UnitZ() : Vec3::UnitX()).normalized(),
               across = out.cross(aside);
    QPolygonF ring;
    for (int i = 0; i < corners; ++i) {
        const double a = 2 * std::numbers::pi * i / corners;
        ring << view_->project(target_->to_view[copy_] *
                               Vec3(touch.at + target_->radius_mm * (std::cos(a) * aside + std::sin(a) * across)));
    }
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme::colour(Role::Card), in_hand ? 4 : 2));
    p.drawPolygon(ring);
    p.setPen(QPen(theme::colour(in_hand ? Role::Accent : Role::Ink), in_hand ? 2 : 1,
                  target_->wipes ? Qt::DashLine : Qt::SolidLine));
    p.drawPolygon(ring);
}

void BrushHandle::paint(QPainter& p) {
    if (!target_) return;
    for (const Touch& touch : stroke_) paint_ring(p, touch, false);
    if (under_) return paint_ring(p, *under_, true);
    if (pointer_.x() < 0) return;
    // Over nothing a small cross tells where it is led by keys.
    p.setPen(QPen(theme::colour(Role::Ink), 1.4));
    p.drawLine(pointer_ - QPointF(6, 0), pointer_ + QPointF(6, 0));
    p.drawLine(pointer_ - QPointF(0, 6), pointer_ + QPointF(0, 6));
}

/// Copies look alike: the place touched is seen under the pointer on one of them.
void BrushHandle::find_copy() {
    if (!under_ || !target_) return;
    double nearest = std::numeric_limits<double>::infinity();
    for (size_t i = 0; i < target_->to_view.size(); ++i) {
        const QPointF off = view_->project(target_->to_view[i] * under_->at) - pointer_;
        if (const double way = std::hypot(off.x(), off.y()); way < nearest) nearest = way, copy_ = i;
    }
}

void BrushHandle::go_to(const QPointF& at) {
    pointer_ = at;
    under_ = touched ? touched(at) : std::nullopt;
    find_copy();
    view_->update();
}

void BrushHandle::add() {
    if (!under_ || !target_) return;
    const double least = target_->radius_mm / 3;
    if (stroke_.empty() || (stroke_.back().at - under_->at).norm() >= least) stroke_.push_back(*under_);
}

void BrushHandle::finish() {
    stroking_ = false;
    const std::vector<Touch> stroke = std::exchange(stroke_, {});
    view_->update();
    if (!stroke.empty() && stroked) stroked(stroke);
}

bool BrushHandle::press(QMouseEvent* event) {
    if (!target_ || event->button() != Qt::LeftButton) return false;
    go_to(event->position());
    if (!under_) return false; // beside the part the view is turned
    stroking_ = true;
    add();
    return true;
}

bool BrushHandle::move(QMouseEvent* event) {
    if (!target_) return false;
    if (!stroking_ && event->buttons() != Qt::NoButton) return false;
    go_to(event->position());
    if (stroking_) add();
    return stroking_ || under_.has_value();
}

bool BrushHandle::release(QMouseEvent*) {
    if (!stroking_) return false;
    finish();
    return true;
}

bool BrushHandle::key(QKeyEvent* event) {
    if (!target_) return false;
    if (event->key() == Qt::Key_Escape) {
        if (stroking_) { // what was drawn so far is dropped
            stroking_ = false;
            stroke_.clear();
            view_->update();
        } else if (put_away) {
            put_away();
        }
        return true;
    }
    if (event->modifiers() & (Qt::ControlModifier | Qt::AltModifier)) return false;
    const bool nowhere = pointer_.x() < 0;
    const QPointF from = nowhere ? QPointF(view_->rect().center()) : pointer_;
    const double step = event->modifiers() & Qt::ShiftModifier ? 2 : 10;
    switch (event->key()) {
    case Qt::Key_Left:
        return go_to(from - QPointF(nowhere ? 0 : step, 0)), true;
    case Qt::Key_Right:
        return go_to(from + QPointF(nowhere ? 0 : step, 0)), true;
    case Qt::Key_Up:
        return go_to(from - QPointF(0, nowhere ? 0 : step)), true;
    case Qt::Key_Down:
        return go_to(from + QPointF(0, nowhere ? 0 : step)), true;
    case Qt::Key_Space:
        go_to(from);
        add();
        return finish(), true;
    case Qt::Key_Plus:
    case Qt::Key_Equal:
        return sized ? sized(target_->radius_mm * 1.25) : void(), true;
    case Qt::Key_Minus:
        return sized ? sized(target_->radius_mm / 1.25) : void(), true;
    default:
        return false;
    }
}

} // namespace lp
