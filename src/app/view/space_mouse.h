// A space mouse: a cap that is pushed and turned moves and turns the view. Read through libspnav where its daemon runs;
// where it does not there is nothing.
#pragma once
#include "app/view/camera.h"
#include <QObject>
#include <functional>

class QSocketNotifier;

namespace lp {

class ViewWidget;

/// How far a cap is pushed (right, up, towards the hand) and turned (about right, up, towards the hand): about -350 to
/// 350 each, for so many ms.
struct CapMotion {
    double x = 0, y = 0, z = 0, rx = 0, ry = 0, rz = 0;
    double ms = 16;
};
/// Where the camera is after it: pushed sideways and up it moves, pulled and pushed it goes nearer and farther, turned
/// about up and right it turns. It never rolls.
Camera moved_by_cap(Camera camera, const CapMotion& motion, const QSize& picture);

class SpaceMouse : public QObject {
    Q_OBJECT
  public:
    /// `view` answers the view that is moved now; null for none.
    explicit SpaceMouse(std::function<ViewWidget*()> view, QObject* parent = nullptr);
    ~SpaceMouse() override;
    bool is_there() const { return notifier_ != nullptr; }

  private:
    void read();
    std::function<ViewWidget*()> view_;
    QSocketNotifier* notifier_ = nullptr;
};

} // namespace lp
