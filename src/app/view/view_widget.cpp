#include "app/view/view_widget.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/light_mesh.h"
#include "app/view/pointer_habits.h"
#include <QContextMenuEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QTimer>
#include <QVariantAnimation>
#include <QWheelEvent>

namespace lp {

using theme::Role;

namespace {
constexpr size_t beds_in_row = 3;
Vec2 bed_pitch(const Vec3& bed_mm) { // room for the words at their front
    return {bed_mm.x() + 30, bed_mm.y() + 40};
}
} // namespace

Vec3 middle_of_bed(size_t number, const Vec3& bed_mm) {
    const Vec2 pitch = bed_pitch(bed_mm);
    return {pitch.x() * double(number % beds_in_row), pitch.y() * double(number / beds_in_row), 0};
}

size_t bed_nearest_to(const Vec3& place, const Vec3& bed_mm) {
    const Vec2 pitch = bed_pitch(bed_mm);
    const double column = std::round(place.x() / pitch.x()), row = std::round(place.y() / pitch.y());
    return size_t(std::clamp(column, 0.0, double(beds_in_row - 1))) + beds_in_row * size_t(std::clamp(row, 0.0, 30.0));
}

bool Scene::looks_like(const Scene& other) const {
    auto same_place = [](const Transform& a, const Transform& b) { return a.matrix() == b.matrix(); };
    auto same_body = [&](const SceneBody& a, const SceneBody& b) {
        return a.part == b.part && a.body == b.body && a.shape == b.shape && same_place(a.place, b.place) &&
               a.colour == b.colour && a.stand_in == b.stand_in && a.see_through == b.see_through &&
               a.support == b.support && a.brushed == b.brushed && a.veil == b.veil && a.ghost == b.ghost &&
               a.map == b.map;
    };
    auto same_pick = [](const Pick& a, const Pick& b) { return a.same(b); };
    return std::equal(bodies.begin(), bodies.end(), other.bodies.begin(), other.bodies.end(), same_body) &&
           std::equal(selected.begin(), selected.end(), other.selected.begin(), other.selected.end(), same_pick) &&
           marked == other.marked && hovered.same(other.hovered) && active_part == other.active_part &&
           edges == other.edges && edges_only == other.edges_only && same_place(print_frame, other.print_frame) &&
           section == other.section && bed_mm == other.bed_mm && beds == other.beds && bed_centre == other.bed_centre &&
           bed_z == other.bed_z;
}

Box3 Scene::box() const {
    Box3 all;
    for (const SceneBody& b : bodies)
        for (const Vec3& v : b.shape->mesh.vertices) all.extend(b.place * v);
    return all;
}

Box3 Scene::box_of(const std::vector<Pick>& picks) const {
    Box3 all;
    for (const SceneBody& b : bodies)
        for (const Pick& pick : picks) {
            if (pick.part != b.part || only_looked_at(b)) continue;
            if (pick.kind == Pick::Kind::Edge && pick.body == b.body && pick.index < b.shape->edges.size()) {
                for (const Vec3& p : b.shape->edges[pick.index].points) all.extend(b.place * p);
                continue;
            }
            for (size_t i = 0; i < b.shape->mesh.triangles.size(); ++i)
                if (pick.kind == Pick::Kind::Body || (pick.body == b.body && b.shape->face_of[i] == pick.index))
                    for (int k = 0; k < 3; ++k) all.extend(b.place * b.shape->mesh.corner(i, k));
        }
    return all;
}

ViewWidget::ViewWidget(QWidget* parent) : QWidget(parent) {
    resting_.setSingleShot(true);
    connect(&resting_, &QTimer::timeout, this, [this] {
        moving_ = false;
        refresh();
    });
    order_soon_.setSingleShot(true);
    connect(&order_soon_, &QTimer::timeout, this, &ViewWidget::order_picture);
    connect(&maker_, &PictureMaker::ready, this, [this] {
        if (take_picture()) update();
    });
    setMouseTracking(true);
    setFocusPolicy(Qt::StrongFocus);
    setAttribute(Qt::WA_OpaquePaintEvent);
    setMinimumSize(240, 200);
    constexpr int rests_ms = 300;
    pick_soon_.setSingleShot(true);
    pick_soon_.setInterval(rests_ms);
    connect(&pick_soon_, &QTimer::timeout, this, [this] { picker_.begin(); });
    setAccessibleName("View");
    setAccessibleDescription(
        "The parts. ViewDrag turns, with Shift or the middle button it moves, the wheel zooms; digits "
        "take the numbered offers below.");
}

void ViewWidget::set_scene(Scene scene) {
    if (camera_set_ && unshifted_.empty() && scene.looks_like(scene_)) return; // a picture costs forty milliseconds
    const bool section_moves = scene_.section && scene.section && *scene_.section != *scene.section;
    std::vector<Box3> boxes; // of millions of places: kept where the body is the same
    for (size_t i = 0; i < scene.bodies.size(); ++i) {
        const bool known = i < boxes_.size() && scene.bodies[i].shape == scene_.bodies[i].shape;
        boxes.push_back(known ? boxes_[i] : bounding_box(scene.bodies[i].shape->mesh));
    }
    boxes_ = std::move(boxes);
    scene_ = std::move(scene);
    unshifted_.clear();
    picker_.set_scene(scene_);
    pick_soon_.start();
    if (!camera_set_ && !scene_.bodies.empty()) {
        camera_set_ = true;
        fit_all();
    }
    section_moves ? refresh_moving() : refresh();
}

void ViewWidget::shift_bodies(PartId part, std::optional<size_t> body, const Transform& by, std::optional<int> copy) {
    if (unshifted_.empty())
        for (const SceneBody& b : scene_.bodies) unshifted_.push_back(b.place);
    for (size_t i = 0; i < scene_.bodies.size(); ++i) {
        SceneBody& b = scene_.bodies[i];
        if (b.part == part && (!body || b.body == *body) && (!copy || b.copy == *copy)) b.place = by * unshifted_[i];
    }
    refresh();
}

void ViewWidget::set_marks(std::vector<ViewMark> marks) {
    marks_ = std::move(marks);
    for (ViewMark& mark : marks_)
        mark.title = as_shown(mark.title), mark.text = as_shown(mark.text), mark.tip = as_shown(mark.tip);
    update();
}

void ViewWidget::set_hint(const QString& hint) {
    hint_ = as_shown(hint);
    update();
}

void ViewWidget::set_busy(const QString& doing, double share) {
    busy_ = doing;
    busy_share_ = share;
    update();
}

bool ViewWidget::sees(const Box3& box) const {
    for (int k = 0; k < 8; ++k)
        if (!rect().contains(project(box.corner(Box3::CornerType(k))).toPoint())) return false;
    return true;
}

void ViewWidget::glide_to(const Box3& box) {
    const Camera from = camera_;
    Camera to = camera_;
    to.fit(box, size());
    if (glide_) glide_->stop();
    if (!theme::glides()) return look_from(to);
    glide_ = new QVariantAnimation(this);
    glide_->setDuration(160);
    glide_->setStartValue(0.0);
    glide_->setEndValue(1.0);
    glide_->setEasingCurve(QEasingCurve::InOutQuad);
    connect(glide_, &QVariantAnimation::valueChanged, this, [this, from, to](const QVariant& value) {
        const double t = value.toDouble();
        Camera now = camera_; // turned meanwhile, it stays turned
        now.centre = from.centre + t * (to.centre - from.centre);
        now.half_height = from.half_height + t * (to.half_height - from.half_height);
        look_from(now);
    });
    glide_->start(QAbstractAnimation::DeleteWhenStopped);
}

bool ViewWidget::is_gliding() const {
    return glide_ != nullptr;
}

void ViewWidget::look_from(const Camera& camera) {
    camera_ = camera;
    camera_set_ = true;
    refresh_moving();
}

void ViewWidget::fit_all() {
    if (glide_) glide_->stop(); // what is asked for now holds
    Box3 box = scene_.box();
    if (box.isEmpty()) box = Box3(Vec3(-60, -60, 0), Vec3(60, 60, 40));
    camera_.fit(box, size());
    refresh();
}

void ViewWidget::fit_box(const Box3& box) {
    if (glide_) glide_->stop(); // what is asked for now holds
    if (box.isEmpty()) return fit_all();
    camera_.fit(box, size());
    camera_.half_height *= 1.15;
    refresh();
}

void ViewWidget::go_to(const Vec3& world) {
    if (glide_) glide_->stop(); // what is asked for now holds
    camera_.centre = world;
    camera_.half_height = std::clamp(camera_.half_height, 8.0, 26.0);
    refresh();
}

void ViewWidget::fit_selection() {
    if (glide_) glide_->stop(); // what is asked for now holds
    Box3 box = scene_.box_of(scene_.selected);
    if (box.isEmpty()) return fit_all();
    camera_.fit(box, size());
    camera_.half_height = std::max(camera_.half_height * 1.3, 5.0);
    refresh();
}

/// The camera is under way: very large bodies are shown coarsely until it rests.
void ViewWidget::refresh_moving() {
    const bool large = std::any_of(scene_.bodies.begin(), scene_.bodies.end(), [](const SceneBody& b) {
        return b.shape->mesh.triangles.size() > coarse_from_facets;
    });
    if (large) {
        moving_ = true;
        resting_.start(200);
    }
    refresh();
}

void ViewWidget::refresh() {
    stale_ = true;
    if (!theme::glides()) return update(); // painting waits for the picture
    order_soon_.start(0);
}

void ViewWidget::order_picture() {
    if (!std::exchange(stale_, false)) return;
    order_soon_.stop();
    const double ratio = devicePixelRatioF();
    const QSize pixels(qRound(width() * ratio), qRound(height() * ratio));
    maker_.order({scene_, camera_, pixels, ratio, moving_});
}

bool ViewWidget::take_picture() {
    const auto picture = maker_.take();
    if (!picture) return false; // a newer one was taken
    image_ = picture->image;
    drawn_from_ = picture->camera;
    last_render_ms_ = picture->took_ms;
    emit drawn();
    return true;
}

void ViewWidget::wait_for_picture() {
    order_picture();
    maker_.wait();
    take_picture();
}

QImage ViewWidget::picture() {
    wait_for_picture();
    update();
    return image_;
}

std::vector<Pick> ViewWidget::candidates_at(const QPointF& at) {
    return picker_.candidates(scene_, camera_, at, size());
}

void ViewWidget::resizeEvent(QResizeEvent*) {
    refresh();
}

void ViewWidget::paintEvent(QPaintEvent*) {
    if (!theme::glides()) wait_for_picture();
    QPainter p(this);
    if (image_.size() != size() * devicePixelRatioF()) p.fillRect(rect(), theme::colour(Role::ViewTop));
    if (image_.isNull()) {
        if (maker_.problem().isEmpty()) return; // the first picture is under way
        p.setPen(theme::colour(Role::Wrong));
        p.drawText(rect().adjusted(40, 40, -40, -40), Qt::AlignCenter | Qt::TextWordWrap, maker_.problem());
        return;
    }
    // What is painted over the picture stands where the picture has it: the camera may be further by now.
    const Camera wanted = std::exchange(camera_, drawn_from_);
    paint_over(p);
    camera_ = wanted;
}

void ViewWidget::mousePressEvent(QMouseEvent* event) {
    setFocus(Qt::MouseFocusReason);
    if (!busy_.isEmpty() && stop_button().contains(event->position())) {
        emit stop_wanted();
        return;
    }
    for (ViewOverlay* overlay : overlays_)
        if (overlay->press(event)) {
            has_mouse_ = overlay;
            return update();
        }
    press_ = last_ = event->position();
    button_ = event->button();
    dragged_ = false;
}

void ViewWidget::mouseMoveEvent(QMouseEvent* event) {
    QPointF now = event->position();
    for (ViewOverlay* overlay : overlays_) {
        if (has_mouse_ ? has_mouse_ != overlay : event->buttons() != Qt::NoButton) continue;
        if (!overlay->move(event)) continue;
        if (scene_.hovered) scene_.hovered = {}, refresh();
        return update();
    }
    if (event->buttons() != Qt::NoButton) {
        if ((now - press_).manhattanLength() > 4) dragged_ = true;
        if (!dragged_) return;
        const auto drag = box_ ? ViewDrag::Box : drag_of(settings().pointer, button_, event->modifiers());
        if (drag == ViewDrag::Box) {
            box_ = QRectF(press_, now).normalized();
            return update();
        }
        QPointF d = now - last_;
        last_ = now;
        if (drag == ViewDrag::Move)
            camera_.pan(d, height());
        else if (drag == ViewDrag::Turn)
            camera_.orbit(d.x() * 0.45, d.y() * 0.45);
        refresh_moving();
        return;
    }
    const ViewMark* ring = ring_at(now);
    setCursor(ring ? Qt::PointingHandCursor : Qt::ArrowCursor);
    setToolTip(ring ? ring->tip : QString());
    auto found = ring ? std::vector<Pick>() : candidates_at(now);
    Pick best = found.empty() ? Pick{} : found.front();
    if (best.same(scene_.hovered)) return;
    scene_.hovered = best;
    emit hovered(best);
    refresh();
}

void ViewWidget::mouseReleaseEvent(QMouseEvent* event) {
    if (ViewOverlay* overlay = std::exchange(has_mouse_, nullptr); overlay && overlay->release(event)) return update();
    if (button_ == Qt::NoButton) return;
    bool click = !dragged_ && button_ == Qt::LeftButton;
    const bool menu = !dragged_ && button_ == Qt::RightButton;
    button_ = Qt::NoButton;
    if (menu) return take_menu(event->position(), event->globalPosition().toPoint());
    if (box_) {
        auto picks = in_box(*box_);
        box_.reset();
        update();
        return emit boxed(picks);
    }
    if (!click) return;
    if (const ViewMark* ring = event->modifiers() ? nullptr : ring_at(event->position()))
        return emit contact_chosen(ContactRef(*ring->contact)); // of its own: marks are made anew by it
    take_click(event->position(), event->modifiers() & (Qt::ControlModifier | Qt::ShiftModifier));
}

const ViewMark* ViewWidget::ring_at(const QPointF& at) const {
    for (const ViewMark& mark : marks_) // the first is drawn on top
        if (mark.contact && QLineF(at, project(mark.at)).length() < ring_px) return &mark;
    return nullptr;
}

void ViewWidget::take_menu(const QPointF& at, const QPoint& global) {
    if (!picker_.ready()) return QTimer::singleShot(15, this, [this, at, global] { take_menu(at, global); });
    const auto found = candidates_at(at);
    emit menu_wanted(found.empty() ? Pick{} : found.front(), global);
}

/// A click on a large scene whose rays are still being made waits for them: none is lost.
void ViewWidget::take_click(const QPointF& at, bool add) {
    if (!picker_.ready()) return QTimer::singleShot(15, this, [this, at, add] { take_click(at, add); });
    const auto found = candidates_at(at);
    // A second click on the same place takes the next candidate: body, what lies behind ...
    if ((at - cycle_at_).manhattanLength() < 4 && !found.empty())
        cycle_ = (cycle_ + 1) % found.size();
    else
        cycle_ = 0;
    cycle_at_ = at;
    emit picked(found.empty() ? Pick{} : found[cycle_], add);
}

/// By the menu key: of what is chosen, in the middle.
void ViewWidget::contextMenuEvent(QContextMenuEvent* event) {
    if (event->reason() != QContextMenuEvent::Keyboard) return;
    emit menu_wanted(scene_.selected.empty() ? Pick{} : scene_.selected.back(), mapToGlobal(rect().center()));
}

std::vector<Pick> ViewWidget::in_box(const QRectF& box) const {
    std::vector<Pick> edges, parts;
    for (const SceneBody& b : scene_.bodies) {
        if (b.support || b.brushed) continue;
        auto inside = [&](const std::vector<Vec3>& points) {
            return std::all_of(points.begin(), points.end(),
                               [&](const Vec3& p) { return box.contains(project(b.place * p)); });
        };
        if (b.part == scene_.active_part)
            for (size_t e = 0; e < b.shape->edges.size(); ++e)
                if (const auto& points = b.shape->edges[e].points; inside(points))
                    edges.push_back({Pick::Kind::Edge, b.part, b.body, e, points[points.size() / 2]});
        if (inside(b.shape->mesh.vertices)) {
            Pick whole;
            whole.kind = Pick::Kind::Body;
            whole.part = b.part;
            whole.body = b.body;
            parts.push_back(whole);
        }
    }
    return edges.empty() ? parts : edges;
}

void ViewWidget::mouseDoubleClickEvent(QMouseEvent* event) {
    for (ViewOverlay* overlay : overlays_)
        if (overlay->double_click(event)) return update();
    mousePressEvent(event);
}

void ViewWidget::wheelEvent(QWheelEvent* event) {
    if (wheel_moves(settings().pointer, event->modifiers())) {
        // A touchpad tells pixels; a wheel tells eighths of a degree, and a notch of 15 degrees is worth 60 pixels.
        camera_.pan(event->pixelDelta().isNull() ? QPointF(event->angleDelta()) / 2 : QPointF(event->pixelDelta()),
                    height());
    } else {
        camera_.zoom(std::pow(0.86, event->angleDelta().y() / 120.0), event->position(), size());
    }
    refresh_moving();
}

/// Pinching on a touchpad zooms at the pointer, whatever the habit.
bool ViewWidget::event(QEvent* event) {
    if (event->type() != QEvent::NativeGesture) return QWidget::event(event);
    auto* gesture = static_cast<QNativeGestureEvent*>(event);
    if (gesture->gestureType() != Qt::ZoomNativeGesture) return QWidget::event(event);
    camera_.zoom(1 / std::max(0.2, 1 + gesture->value()), gesture->position(), size());
    refresh_moving();
    return true;
}

void ViewWidget::keyPressEvent(QKeyEvent* event) {
    for (ViewOverlay* overlay : overlays_)
        if (overlay->key(event)) return update();
    int key = event->key();
    bool shift = event->modifiers() & Qt::ShiftModifier;
    if (key >= Qt::Key_1 && key <= Qt::Key_9) return emit number_pressed(key - Qt::Key_0);
    if (key == Qt::Key_Slash) return emit line_wanted();
    if (key == Qt::Key_Escape) return emit escape_pressed();
    if (event->modifiers() & Qt::AltModifier) { // nudge: along the axes nearest to the screen's
        double mm = (event->modifiers() & Qt::ControlModifier ? 0.01 : shift ? 0.1 : 1) * length_step_mm();
        auto nearest = [](const Vec3& way) {
            int axis;
            way.cwiseAbs().maxCoeff(&axis);
            Vec3 straight = Vec3::Zero();
            straight[axis] = way[axis] < 0 ? -1 : 1;
            return straight;
        };
        double yaw = radians(camera_.yaw_deg);
        Vec3 right = nearest(Vec3(-std::sin(yaw), std::cos(yaw), 0)), back(-right.y(), right.x(), 0);
        if (key == Qt::Key_Left) return emit nudged(-right * mm);
        if (key == Qt::Key_Right) return emit nudged(right * mm);
        if (key == Qt::Key_Up) return emit nudged(back * mm);
        if (key == Qt::Key_Down) return emit nudged(-back * mm);
        if (key == Qt::Key_PageUp) return emit nudged(Vec3(0, 0, mm));
        if (key == Qt::Key_PageDown) return emit nudged(Vec3(0, 0, -mm));
    }
    double step = 6;
    if (key == Qt::Key_Left)
        shift ? camera_.pan({20, 0}, height()) : camera_.orbit(-step, 0);
    else if (key == Qt::Key_Right)
        shift ? camera_.pan({-20, 0}, height()) : camera_.orbit(step, 0);
    else if (key == Qt::Key_Up)
        shift ? camera_.pan({0, 20}, height()) : camera_.orbit(0, step);
    else if (key == Qt::Key_Down)
        shift ? camera_.pan({0, -20}, height()) : camera_.orbit(0, -step);
    else if (key == Qt::Key_Plus || key == Qt::Key_Equal)
        camera_.zoom(0.86, rect().center(), size());
    else if (key == Qt::Key_Minus)
        camera_.zoom(1 / 0.86, rect().center(), size());
    else if (key == Qt::Key_Home)
        return fit_all();
    else
        return QWidget::keyPressEvent(event);
    refresh_moving();
}

void ViewWidget::leaveEvent(QEvent*) {
    if (!scene_.hovered) return;
    scene_.hovered = {};
    emit hovered({});
    refresh();
}

} // namespace lp
