// Keeps one window over a session. When the look or the unit changes another window takes the place of the one there
// was: everything in it is said and drawn anew, what is open, chosen and looked at stays.
#pragma once
#include "app/main_window.h"
#include "app/settings.h"

namespace lp {

class SpaceMouse;

class WindowKeeper : public QObject {
    Q_OBJECT
  public:
    explicit WindowKeeper(Session* session);
    ~WindowKeeper() override;
    MainWindow* window() const { return window_.get(); }
    SpaceMouse* space_mouse() const { return space_mouse_; }

  signals:
    void restart_wanted();

  private:
    void follow(const Settings& before);
    void make_anew();
    void listen();

    Session* session_;
    std::unique_ptr<MainWindow> window_;
    SpaceMouse* space_mouse_;
};

} // namespace lp
