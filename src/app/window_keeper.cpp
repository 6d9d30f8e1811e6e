#include "app/window_keeper.h"
#include "app/outline/outline_editor.h"
#include "app/panels/settings_dialog.h"
#include "app/theme/theme.h"
#include "app/view/space_mouse.h"
#include "app/view/view_widget.h"
#include <QApplication>
#include <QTimer>

namespace lp {

WindowKeeper::WindowKeeper(Session* session) : session_(session), window_(std::make_unique<MainWindow>(session)) {
    space_mouse_ = new SpaceMouse([this] { return window_ ? window_->view() : nullptr; }, this);
    connect(&SettingsFile::only(), &SettingsFile::changed, this, &WindowKeeper::follow);
    listen();
}

void WindowKeeper::listen() {
    connect(window_.get(), &MainWindow::restart_wanted, this, &WindowKeeper::restart_wanted);
}

WindowKeeper::~WindowKeeper() = default;

void WindowKeeper::follow(const Settings& before) {
    if (before.unit == settings().unit && before.look == settings().look) return;
    QTimer::singleShot(0, this, &WindowKeeper::make_anew); // not under the button that was just pressed
}

void WindowKeeper::make_anew() {
    const std::unique_ptr<MainWindow> old = std::move(window_);
    const bool in_settings = old->settings_dialog() && old->settings_dialog()->isVisible();
    const QRect at = in_settings ? old->settings_dialog()->geometry() : QRect();
    const PartId drawn_part = old->outline()->part();
    const StepId drawn_step = old->outline()->active() ? old->outline()->step() : StepId();
    const Camera camera = old->view()->camera();
    theme::apply(*qApp);
    window_ = std::make_unique<MainWindow>(session_);
    listen();
    window_->setGeometry(old->geometry());
    window_->setWindowState(old->windowState());
    window_->show();
    old->hide();
    if (drawn_step) session_->draw_outline(drawn_part, drawn_step);
    window_->view()->look_from(camera);
    if (!in_settings) return;
    window_->show_settings();
    window_->settings_dialog()->setGeometry(at);
}

} // namespace lp
