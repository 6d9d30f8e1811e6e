#include "app/view/move_handles.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/expression.h"
#include "base/quantity.h"
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>

namespace lp {

using theme::Role;

namespace {
constexpr double grip_px = 9, snap_px = 7;
const char* const axis_names[] = {"x", "y", "z"};
} // namespace

void MoveHandles::set_target(const std::optional<Target>& target) {
    if (target != target_) cancel();
    target_ = target;
    if (!target_) return;
    Box3 box;
    for (const SceneBody& b : view_->scene().bodies) {
        if (b.part != target_->part || b.support || b.brushed || (target_->body && b.body != *target_->body)) continue;
        for (const Vec3& v : b.shape->mesh.vertices) box.extend(b.place * v);
    }
    if (box.isEmpty())
        target_.reset();
    else if (axis_ < 0)
        centre_ = box.center();
}

double MoveHandles::reach() const {
    return 74 * view_->camera().pixel_mm(view_->size());
}

QPointF MoveHandles::grip(int axis, bool turn) const {
    Vec3 at = centre_;
    if (!turn) {
        at[axis] += reach();
    } else { // between the two other axes
        at[(axis + 1) % 3] += 0.6 * reach();
        at[(axis + 2) % 3] += 0.6 * reach();
    }
    if (axis_ == axis && !turn_ && !turn) at[axis] += value();
    return view_->project(at);
}

std::vector<MoveHandles::Feature> MoveHandles::features(bool of_target, int axis) const {
    std::vector<Feature> all;
    for (const SceneBody& b : view_->scene().bodies) {
        bool mine = b.part == target_->part && (!target_->body || b.body == *target_->body);
        if (b.support || mine != of_target) continue;
        Box3 box;
        for (const Vec3& v : b.shape->mesh.vertices) box.extend(b.place * v);
        all.push_back({box.min()[axis], "a side"});
        all.push_back({box.max()[axis], "a side"});
        all.push_back({box.center()[axis], "the middle"});
        if (b.shape->faces.size() > 400) continue;
        for (const FaceInfo& face : b.shape->faces) {
            Vec3 way = b.place.linear() * face.direction;
            if (face.kind == SurfaceKind::Plane && std::fabs(way[axis]) > 0.9999)
                all.push_back({(b.place * face.centre)[axis], "a face"});
            if (face.kind == SurfaceKind::Cylinder && std::fabs(way[axis]) < 1e-4)
                all.push_back({(b.place * face.axis_point)[axis], "an axis"});
        }
    }
    return all;
}

double MoveHandles::dragged_to(const QPointF& at) const {
    Camera::Ray ray = view_->camera().ray(at, view_->size());
    Vec3 axis = Vec3::Unit(axis_);
    if (!turn_) { // the place on the axis nearest to the ray
        Vec3 w = centre_ - ray.origin, d = ray.direction.normalized();
        double b = axis.dot(d), denominator = 1 - b * b;
        if (denominator < 1e-6) return 0; // looked along: it cannot be dragged from here
        return (b * d.dot(w) - axis.dot(w)) / denominator;
    }
    // The angle in the plane of the turn.
    double facing = ray.direction.dot(axis);
    if (std::fabs(facing) < 1e-3) return (at.x() - press_.x()) * 0.5;
    Vec3 p = ray.origin + ray.direction * ((centre_ - ray.origin).dot(axis) / facing) - centre_;
    return degrees(std::atan2(p[(axis_ + 2) % 3], p[(axis_ + 1) % 3]));
}

double MoveHandles::snapped(double by) {
    meets_.clear();
    if (turn_) {
        double even = std::round(by / 15) * 15;
        return std::fabs(even - by) < 2 ? even : std::round(by * 10) / 10;
    }
    double pixel = view_->camera().pixel_mm(view_->size()), best = snap_px * pixel, result = by;
    for (const Feature& mine : mine_)
        for (const Feature& other : theirs_)
            if (double off = std::fabs(mine.at + by - other.at); off < best) {
                best = off;
                result = other.at - mine.at;
                meets_ = mine.words + " meets " + other.words;
            }
    if (!meets_.isEmpty()) return result;
    const double step = (pixel > 0.2 ? 1 : pixel > 0.02 ? 0.1 : 0.01) * length_step_mm(); // round at this zoom
    return std::round(by / step) * step;
}

void MoveHandles::begin(int axis, bool turn, const QPointF& at) {
    axis_ = axis;
    turn_ = turn;
    press_ = pointer_ = at;
    value_ = 0;
    typed_.clear();
    meets_.clear();
    held_ = true;
    dragged_ = false;
    begun_ = dragged_to(at);
    mine_ = turn ? std::vector<Feature>{} : features(true, axis);
    theirs_ = turn ? std::vector<Feature>{} : features(false, axis);
}

double MoveHandles::value() const {
    if (typed_.isEmpty()) return value_;
    const QuantityKind kind = turn_ ? QuantityKind::Angle : QuantityKind::Length;
    auto typed = evaluate_expression(as_typed(typed_, kind, {}).toStdString(), kind, {});
    return typed ? *typed : value_;
}

void MoveHandles::show(double now) {
    Transform by = Transform::Identity();
    if (turn_) {
        by.translate(centre_);
        by.rotate(Eigen::AngleAxisd(radians(now), Vec3::Unit(axis_)));
        by.translate(-centre_);
    } else {
        by.translate(now * Vec3::Unit(axis_));
    }
    view_->shift_bodies(target_->part, target_->body, by);
}

void MoveHandles::cancel() {
    if (axis_ >= 0 && target_) view_->shift_bodies(target_->part, target_->body, Transform::Identity());
    axis_ = -1;
    held_ = false;
    typed_.clear();
}

void MoveHandles::commit() {
    int axis = axis_;
    double by = value();
    bool turn = turn_;
    Target target = *target_;
    Vec3 centre = centre_;
    axis_ = -1;
    held_ = false;
    typed_.clear();
    if (std::fabs(by) < 1e-9) {
        view_->shift_bodies(target.part, target.body, Transform::Identity());
        return;
    }
    if (turn) {
        if (turned) turned(target, axis, by, centre);
    } else {
        centre_[axis] += by;
        if (moved) moved(target, by * Vec3::Unit(axis));
    }
}

QString MoveHandles::words() const {
    if (axis_ < 0) return {};
    QString unit = turn_ ? "°" : inches_are_shown() ? " in" : " mm";
    QString number = typed_.isEmpty() ? as_shown(format_fixed(value_, turn_ ? 1 : 2) + (turn_ ? "°" : " mm"))
                                      : typed_ + "▏" + (typed_.contains(' ') ? "" : unit);
    QString text = QString(turn_ ? "about %1  %2" : "%1  %2").arg(axis_names[axis_], number);
    if (!meets_.isEmpty() && typed_.isEmpty()) text += " · " + meets_;
    return text;
}

void MoveHandles::paint(QPainter& p) {
    if (!target_) return;
    Vec3 middle = centre_;
    if (axis_ >= 0 && !turn_) middle[axis_] += value();
    QPointF from = view_->project(middle);
    p.setFont(theme::numbers(12));
    for (int k = 0; k < 3; ++k) {
        QPointF tip = grip(k, false), way = tip - from;
        if (axis_ >= 0 && !turn_ && axis_ != k) { // the others go along
            Vec3 at = middle;
            at[k] += reach();
            tip = view_->project(at);
            way = tip - from;
        }
        double length = std::hypot(way.x(), way.y());
        if (length < 12) continue; // looked along
        bool hot = (axis_ == k && !turn_) || (axis_ < 0 && hover_axis_ == k && !hover_turn_);
        QColor ink = theme::colour(hot ? Role::Accent : Role::Ink);
        // A shaft with a jaw across its end, like a caliper's, and the axis's letter.
        QPointF across(-way.y() / length, way.x() / length);
        p.setPen(QPen(theme::colour(Role::Card), hot ? 6 : 5, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(from, tip);
        p.setPen(QPen(ink, hot ? 3 : 2, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(from, tip);
        p.drawLine(tip - across * 9, tip + across * 9);
        QRectF letter(tip + way / length * 13 - QPointF(8, 8), QSizeF(16, 16));
        p.setPen(ink);
        p.drawText(letter, Qt::AlignCenter, axis_names[k]);
    }
    for (int k = 0; k < 3; ++k) {
        QPointF at = grip(k, true);
        bool hot = (axis_ == k && turn_) || (axis_ < 0 && hover_axis_ == k && hover_turn_);
        QPainterPath arc; // a quarter of the circle between the other axes
        for (int i = 0; i <= 16; ++i) {
            double a = radians(20 + i * 50.0 / 16), r = 0.6 * std::sqrt(2.0) * reach();
            Vec3 q = centre_;
            q[(k + 1) % 3] += r * std::cos(a);
            q[(k + 2) % 3] += r * std::sin(a);
            QPointF s = view_->project(q);
            i ? arc.lineTo(s) : arc.moveTo(s);
        }
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::colour(Role::Card), 4));
        p.drawPath(arc);
        p.setPen(QPen(theme::colour(hot ? Role::Accent : Role::SoftInk), hot ? 2.4 : 1.4, Qt::DotLine));
        p.drawPath(arc);
        p.setPen(QPen(theme::colour(hot ? Role::Accent : Role::Ink), hot ? 2.4 : 1.6));
        p.setBrush(theme::colour(Role::Card));
        p.drawEllipse(at, 5, 5);
    }
    if (axis_ < 0) return;
    paint_number_beside(p, pointer_, words(), view_->width(), true);
}

bool MoveHandles::press(QMouseEvent* event) {
    if (!target_ || event->button() != Qt::LeftButton) return false;
    for (int turn = 0; turn < 2; ++turn)
        for (int k = 0; k < 3; ++k) {
            QPointF d = grip(k, turn != 0) - event->position();
            if (std::hypot(d.x(), d.y()) > grip_px + 3) continue;
            begin(k, turn != 0, event->position());
            return true;
        }
    if (axis_ >= 0) commit(); // a click elsewhere takes what is there
    return false;
}

bool MoveHandles::move(QMouseEvent* event) {
    if (!target_) return false;
    if (!held_) {
        int axis = -1;
        bool turning = false;
        for (int turn = 0; turn < 2; ++turn)
            for (int k = 0; k < 3; ++k) {
                QPointF d = grip(k, turn != 0) - event->position();
                if (std::hypot(d.x(), d.y()) <= grip_px + 3) axis = k, turning = turn;
            }
        bool changed = axis != hover_axis_ || turning != hover_turn_;
        hover_axis_ = axis;
        hover_turn_ = turning;
        if (changed) view_->update();
        return axis >= 0;
    }
    pointer_ = event->position();
    if ((pointer_ - press_).manhattanLength() > 3) dragged_ = true;
    if (!dragged_ || !typed_.isEmpty()) return true;
    double by = dragged_to(pointer_) - begun_;
    if (turn_) by = std::remainder(by, 360);
    value_ = snapped(by);
    show(value_);
    return true;
}

bool MoveHandles::release(QMouseEvent*) {
    if (!held_) return false;
    held_ = false;
    // A click without a drag waits for a number; so does a drag in which one was begun.
    if (dragged_ && typed_.isEmpty()) commit();
    return true;
}

bool MoveHandles::key(QKeyEvent* event) {
    if (axis_ < 0) return false;
    if (event->key() == Qt::Key_Escape) {
        cancel();
        return true;
    }
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Enter) {
        commit();
        return true;
    }
    if (event->key() == Qt::Key_Backspace)
        typed_.chop(1);
    else if (!event->text().isEmpty() && event->text()[0].isPrint())
        typed_ += event->text();
    else
        return false;
    show(value());
    return true;
}

} // namespace lp
