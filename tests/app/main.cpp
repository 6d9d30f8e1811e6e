// Runs the tests of the window under a watch: how long the interface thread is busy with each key that is pressed.
#include "app/theme/theme.h"
#include <QApplication>
#include <QElapsedTimer>
#include <QKeyEvent>
#include <QLineEdit>
#include <cstdio>
#include <gtest/gtest.h>

int edit_until_killed();

namespace {

/// The longest key of a test. Typing means a key with a letter into a line; other keys are acts, which may do more.
class WatchedApplication : public QApplication {
  public:
    using QApplication::QApplication;
    bool notify(QObject* receiver, QEvent* event) override {
        if (event->type() != QEvent::KeyPress || depth_) return QApplication::notify(receiver, event);
        const auto* key = static_cast<QKeyEvent*>(event);
        const bool typing = qobject_cast<QLineEdit*>(receiver) && !key->text().isEmpty() && key->text()[0].isPrint() &&
                            !(key->modifiers() & (Qt::ControlModifier | Qt::AltModifier));
        if (!typing) return QApplication::notify(receiver, event);
        ++depth_;
        QElapsedTimer clock;
        clock.start();
        const bool done = QApplication::notify(receiver, event);
        const double ms = double(clock.nsecsElapsed()) / 1e6;
        --depth_;
        ++keys;
        worst_ms = std::max(worst_ms, ms);
        over += ms > 16;
        return done;
    }
    int keys = 0, over = 0;
    double worst_ms = 0;

  private:
    int depth_ = 0;
};

/// Says the worst of each test that types.
class KeyWatch : public ::testing::EmptyTestEventListener {
  public:
    explicit KeyWatch(WatchedApplication* app) : app_(app) {}
    void OnTestStart(const ::testing::TestInfo&) override { app_->keys = 0, app_->over = 0, app_->worst_ms = 0; }
    void OnTestEnd(const ::testing::TestInfo&) override {
        if (app_->keys)
            std::printf("[   KEYS   ] %d typed, the longest took %.1f ms, %d over 16 ms\n", app_->keys, app_->worst_ms,
                        app_->over);
    }

  private:
    WatchedApplication* app_;
};

} // namespace

int main(int argc, char** argv) {
    WatchedApplication app(argc, argv);
    app.setProperty("still", true); // nothing glides: the picture is there at once
    lp::theme::apply(app);
    if (argc > 1 && std::string(argv[1]) == "--edit-until-killed") return edit_until_killed();
    ::testing::InitGoogleTest(&argc, argv);
    ::testing::UnitTest::GetInstance()->listeners().Append(new KeyWatch(&app));
    return RUN_ALL_TESTS();
}
