#include "app/view/stand_handles.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/quantity.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

namespace {
constexpr double stand_grip_px = 12, turn_step_deg = 15, turn_snap_deg = 3;
} // namespace

void StandHandles::set_target(std::optional<Target> target) {
    if (held_) return;
    hover_.reset();
    target_ = std::move(target);
}

const StandHandles::Stand* StandHandles::stand_of(int copy) const {
    if (target_)
        for (const Stand& stand : target_->stands)
            if (stand.copy == copy) return &stand;
    return nullptr;
}

Vec3 StandHandles::dial_at(const Stand& stand, double turn_deg) const {
    const double away = stand.reach_mm + 16 * view_->camera().pixel_mm(view_->size()), turn = radians(turn_deg);
    return stand.middle + away * Vec3(std::cos(turn), std::sin(turn), 0);
}

QPointF StandHandles::grip(int copy) const {
    const Stand* stand = stand_of(copy);
    return stand ? view_->project(stand->middle) : QPointF();
}

std::optional<QPointF> StandHandles::dial() const {
    const Stand* stand = target_ ? stand_of(target_->chosen) : nullptr;
    if (!stand) return std::nullopt;
    return view_->project(dial_at(*stand, 0));
}

std::optional<Vec3> StandHandles::on_bed(const QPointF& at) const {
    const Camera::Ray ray = view_->camera().ray(at, view_->size());
    if (std::fabs(ray.direction.normalized().z()) < 0.05) return std::nullopt; // looked along the bed
    return Vec3(ray.origin - ray.direction * (ray.origin.z() / ray.direction.z()));
}

std::optional<StandHandles::Hold> StandHandles::at(const QPointF& place) const {
    if (!target_) return std::nullopt;
    auto near = [&](const QPointF& grip) {
        return std::hypot(grip.x() - place.x(), grip.y() - place.y()) <= stand_grip_px;
    };
    if (auto d = dial(); d && near(*d)) return Hold{target_->chosen, true};
    for (const Stand& stand : target_->stands)
        if (near(grip(stand.copy))) return Hold{stand.copy, false};
    return std::nullopt;
}

void StandHandles::drag_to(const QPointF& at) {
    const Stand* stand = hold_ ? stand_of(hold_->copy) : nullptr;
    const auto now = stand ? on_bed(at) : std::nullopt;
    if (!now) return;
    pointer_ = at;
    to_ = stand->spot;
    Transform by = Transform::Identity();
    if (hold_->turn) {
        auto angle = [&](const Vec3& p) {
            return degrees(std::atan2(p.y() - stand->middle.y(), p.x() - stand->middle.x()));
        };
        double turn = stand->spot.turn_deg + angle(*now) - angle(begun_);
        turn -= 360 * std::floor(turn / 360);
        const double even = std::round(turn / turn_step_deg) * turn_step_deg;
        turn = std::fabs(even - turn) < turn_snap_deg ? even : std::round(turn);
        to_.turn_deg = std::fmod(turn, 360);
        by.translate(stand->middle);
        by.rotate(Eigen::AngleAxisd(radians(to_.turn_deg - stand->spot.turn_deg), Vec3::UnitZ()));
        by.translate(-stand->middle);
    } else {
        // In whole steps from the corner of the bed it comes to stand on.
        const double step = length_step_mm();
        const Vec3 corner = Vec3(target_->bed_mm.x() / 2, target_->bed_mm.y() / 2, 0);
        const Vec3 middle = stand->middle + *now - begun_;
        to_.bed = bed_nearest_to(middle, target_->bed_mm);
        const Vec3 of_bed = middle_of_bed(to_.bed, target_->bed_mm);
        const Vec3 there = middle + corner - of_bed;
        to_.at = {std::round(there.x() / step) * step, std::round(there.y() / step) * step};
        by.translate(Vec3(to_.at.x(), to_.at.y(), 0) + of_bed - corner - stand->middle);
        by.translation().z() = 0;
    }
    view_->shift_bodies(target_->part, {}, by, hold_->copy);
}

QString StandHandles::words() const {
    if (!held_ || !hold_) return {};
    if (hold_->turn) return "turned by " + QString::fromStdString(format_number(to_.turn_deg, 1)) + "°";
    auto mm = [](double v) { return as_shown(QString::fromStdString(format_fixed(v, 1)) + " mm"); };
    return mm(to_.at.x()) + " from the left, " + mm(to_.at.y()) + " from the front, bed " +
           QString::number(to_.bed + 1);
}

void StandHandles::paint(QPainter& p) {
    if (!target_) return;
    for (const Stand& stand : target_->stands) {
        const bool in_hand = held_ && hold_->copy == stand.copy && !hold_->turn;
        const QPointF c = in_hand ? pointer_ : grip(stand.copy);
        const bool hot = in_hand || (hover_ && *hover_ == Hold{stand.copy, false});
        const QColor ink = theme::colour(hot ? Role::Accent : Role::Ink);
        p.setPen(QPen(ink, hot ? 2.4 : 1.6));
        p.setBrush(theme::colour(Role::Card));
        // Round moves; square stays when everything is arranged.
        if (stand.locked)
            p.drawRect(QRectF(c.x() - 8, c.y() - 8, 16, 16));
        else
            p.drawEllipse(c, 9, 9);
        if (target_->chosen == stand.copy) p.drawEllipse(c, 2, 2);
        p.drawLine(c - QPointF(6, 0), c + QPointF(6, 0));
        p.drawLine(c - QPointF(0, 6), c + QPointF(0, 6));
    }
    if (const Stand* stand = stand_of(target_->chosen); stand && !(held_ && !hold_->turn)) {
        const bool in_hand = held_ && hold_->turn, hot = in_hand || (hover_ && hover_->turn);
        const QPointF knob = in_hand ? pointer_ : *dial(), c = view_->project(stand->middle);
        p.setPen(QPen(theme::colour(hot ? Role::Accent : Role::SoftInk), hot ? 2.0 : 1.2, Qt::DotLine));
        p.drawLine(c, knob);
        p.setPen(QPen(theme::colour(hot ? Role::Accent : Role::Ink), hot ? 2.4 : 1.6));
        p.setBrush(theme::colour(Role::Card));
        p.drawEllipse(knob, 5, 5);
    }
    if (held_) paint_number_beside(p, pointer_, words(), view_->width(), true);
}

bool StandHandles::press(QMouseEvent* event) {
    if (event->button() != Qt::LeftButton) return false;
    const auto hold = at(event->position());
    const auto there = hold ? on_bed(event->position()) : std::nullopt;
    if (!there) return false;
    const Stand* stand = stand_of(hold->copy);
    hold_ = hold;
    held_ = true;
    dragged_ = false;
    begun_ = *there;
    to_ = stand->spot;
    pointer_ = event->position();
    view_->update();
    return true;
}

bool StandHandles::move(QMouseEvent* event) {
    if (!target_) return false;
    if (held_) {
        const QPointF way = event->position() - pointer_;
        dragged_ = dragged_ || std::hypot(way.x(), way.y()) > 3;
        if (dragged_) drag_to(event->position());
        return true;
    }
    const auto over = at(event->position());
    if (over != hover_) {
        hover_ = over;
        view_->update();
    }
    return over.has_value();
}

bool StandHandles::release(QMouseEvent*) {
    if (!held_) return false;
    const Hold hold = *hold_;
    const PartId part = target_->part;
    const Stand* stand = stand_of(hold.copy);
    const std::optional<Stand> pushed =
        dragged_ && stand && !(to_ == stand->spot) ? std::optional(*stand) : std::nullopt;
    held_ = false;
    hold_.reset();
    view_->update();
    if (chosen) chosen(part, hold.copy);
    if (pushed && moved) moved(part, *pushed, to_);
    return true;
}

void StandHandles::drop() {
    if (target_ && hold_) view_->shift_bodies(target_->part, {}, Transform::Identity(), hold_->copy);
    held_ = dragged_ = false;
    hold_.reset();
    view_->update();
}

bool StandHandles::key(QKeyEvent* event) {
    if (!held_ || event->key() != Qt::Key_Escape) return false;
    drop();
    return true;
}

} // namespace lp
