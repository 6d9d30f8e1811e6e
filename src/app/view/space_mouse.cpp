#include "app/view/space_mouse.h"
#include "app/view/view_widget.h"
#include <QSocketNotifier>
#include <spnav.h>
#include <sys/socket.h>

namespace lp {

Camera moved_by_cap(Camera camera, const CapMotion& m, const QSize& picture) {
    const double share = std::clamp(m.ms, 1.0, 100.0) / 1000 / 350; // of a second at full deflection
    // In a second: a turn of 120 degrees, across the picture, to a third or three times as near.
    camera.orbit(-m.ry * share * 120, -m.rx * share * 120);
    camera.pan(QPointF(-m.x, m.y) * share * picture.height(), picture.height());
    camera.zoom(std::pow(3, m.z * share), QPointF(picture.width() / 2.0, picture.height() / 2.0), picture);
    return camera;
}

SpaceMouse::SpaceMouse(std::function<ViewWidget*()> view, QObject* parent) : QObject(parent), view_(std::move(view)) {
    if (spnav_open() != 0) return;
    notifier_ = new QSocketNotifier(spnav_fd(), QSocketNotifier::Read, this);
    connect(notifier_, &QSocketNotifier::activated, this, &SpaceMouse::read);
}

SpaceMouse::~SpaceMouse() {
    if (notifier_) spnav_close();
}

/// All that has come, as one motion a turn of the event loop: a slow picture does not fall behind the hand.
void SpaceMouse::read() {
    char first;
    if (recv(spnav_fd(), &first, 1, MSG_PEEK | MSG_DONTWAIT) == 0) { // the daemon has gone
        notifier_->setEnabled(false);
        notifier_->deleteLater();
        notifier_ = nullptr;
        spnav_close();
        return;
    }
    ViewWidget* view = view_();
    bool moved = false;
    Camera camera = view ? view->camera() : Camera();
    for (spnav_event event; spnav_poll_event(&event);) {
        if (!view || !view->window()->isActiveWindow()) continue;
        if (event.type == SPNAV_EVENT_MOTION) {
            const auto& m = event.motion;
            camera = moved_by_cap(
                camera,
                {double(m.x), double(m.y), double(m.z), double(m.rx), double(m.ry), double(m.rz), double(m.period)},
                view->size());
            moved = true;
        } else if (event.type == SPNAV_EVENT_BUTTON && event.button.press) {
            view->fit_all();
            camera = view->camera();
        }
    }
    if (moved) view->look_from(camera);
}

} // namespace lp
