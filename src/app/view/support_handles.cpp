#include "app/view/support_handles.h"
#include "app/theme/theme.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

namespace {
constexpr double support_grip_px = 7, drag_px = 4, same_mm = 0.5;
constexpr size_t most_dots = 600; ///< more could not be told apart
} // namespace

void SupportHandles::set_target(std::optional<Target> target) {
    if (held_) return;
    hover_.reset();
    target_ = std::move(target);
    if (target_ && target_->places.size() > most_dots) target_->places.resize(most_dots);
}

QPointF SupportHandles::dot(size_t place) const {
    return target_ && place < target_->places.size() ? view_->project(target_->to_view * target_->places[place])
                                                     : QPointF();
}

bool SupportHandles::is_chosen(const Vec3& place) const {
    return target_ && target_->chosen && (*target_->chosen - place).norm() < same_mm;
}

std::optional<size_t> SupportHandles::at(const QPointF& place) const {
    std::optional<size_t> best;
    double nearest = support_grip_px;
    for (size_t i = 0; target_ && i < target_->places.size(); ++i) {
        const QPointF way = dot(i) - place;
        const double distance = std::hypot(way.x(), way.y());
        if (distance > nearest) continue;
        nearest = distance;
        best = i;
    }
    return best;
}

void SupportHandles::paint(QPainter& p) {
    if (!target_) return;
    for (size_t i = 0; i < target_->places.size(); ++i) {
        const bool in_hand = held_ == i && dragged_, hot = in_hand || hover_ == i,
                   chosen = is_chosen(target_->places[i]);
        const QPointF c = in_hand ? pointer_ : dot(i);
        p.setPen(QPen(theme::colour(chosen || hot ? Role::Accent : Role::Ink), chosen || hot ? 2.2 : 1.2));
        p.setBrush(theme::colour(chosen ? Role::Accent : Role::Card));
        p.drawEllipse(c, chosen || hot ? 5.5 : 3, chosen || hot ? 5.5 : 3);
        if (!in_hand) continue;
        p.setPen(QPen(theme::colour(Role::Ink), 1, Qt::DotLine));
        p.drawLine(dot(i), c);
        paint_number_beside(p, pointer_, there_ ? "carries here" : "nothing to carry here", view_->width(), true);
    }
}

bool SupportHandles::press(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return false;
    held_ = at(event->position());
    if (!held_) {
        if (target_ && target_->chosen && chosen) chosen(std::nullopt);
        return false;
    }
    dragged_ = false;
    there_.reset();
    begun_ = pointer_ = event->position();
    return true;
}

bool SupportHandles::move(QMouseEvent* event) {
    if (!target_) return false;
    if (held_) {
        pointer_ = event->position();
        const QPointF way = pointer_ - begun_;
        dragged_ = dragged_ || std::hypot(way.x(), way.y()) > drag_px;
        if (dragged_) there_ = place_at ? place_at(pointer_) : std::nullopt;
        return true;
    }
    const auto over = at(event->position());
    if (over != hover_) {
        hover_ = over;
        view_->update();
    }
    return over.has_value();
}

bool SupportHandles::release(QMouseEvent*) {
    if (!held_) return false;
    const Vec3 from = target_->places[*held_];
    const bool dragged = dragged_;
    const auto to = there_;
    held_.reset();
    dragged_ = false;
    view_->update();
    if (!dragged && chosen) chosen(from);
    if (dragged && to && moved) moved(from, *to);
    return true;
}

bool SupportHandles::key(QKeyEvent* event) {
    if (held_ && event->key() == Qt::Key_Escape) {
        held_.reset();
        dragged_ = false;
        view_->update();
        return true;
    }
    if (!target_ || !target_->chosen) return false;
    if (event->key() == Qt::Key_Escape && chosen) {
        chosen(std::nullopt);
        return true;
    }
    if ((event->key() == Qt::Key_Delete || event->key() == Qt::Key_Backspace) && taken_away) {
        taken_away(*target_->chosen);
        return true;
    }
    return false;
}

} // namespace lp
