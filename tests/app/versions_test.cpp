// Versions by hand: kept under a name, compared, a number taken back, saved with the project.
#include "app/panels/versions_dialog.h"
#include "window_test.h"
#include <QLabel>
#include <QListWidget>
#include <QPushButton>
#include <QTableWidget>

using namespace lp;

namespace {

class Versions : public lp::Window {
  protected:
    VersionsDialog* dialog() { return window->versions(); }
    void open_dialog() {
        say("versions");
        ASSERT_TRUE(dialog() && dialog()->isVisible());
    }
    void compared() {
        ASSERT_TRUE(QTest::qWaitFor([&] { return dialog()->is_compared(); }, 20'000)) << dialog()->says().toStdString();
        settle();
    }
};

} // namespace

TEST_F(Versions, AreKeptComparedAndANumberIsTakenBack) { // act 6
    open_part("Plate", nlohmann::json::array({block(40, 20, 5)}), Stretch::Shape);
    open_dialog();
    EXPECT_TRUE(dialog()->says().startsWith("No version is kept yet"));
    QTest::keyClicks(dialog()->name(), "before the wider one");
    QTest::keyClick(dialog()->name(), Qt::Key_Return);
    ASSERT_EQ(dialog()->versions()->count(), 1);
    EXPECT_TRUE(dialog()->versions()->item(0)->text().startsWith("before the wider one, 20"));
    compared();
    EXPECT_TRUE(dialog()->says().startsWith("No number has changed"));
    EXPECT_EQ(dialog()->parts()->item(0, 1)->text(), "as it was");
    EXPECT_FALSE(dialog()->take_button()->isEnabled());
    dialog()->close();
    // The plate gets longer.
    choose("Plate");
    type(0, "size_x", "50");
    settle();
    EXPECT_NEAR(volume("Plate"), 5000, 1e-6);
    // Also where files are opened and kept.
    QPushButton* project = nullptr;
    for (auto* button : window->findChildren<QPushButton*>())
        if (button->accessibleName() == "Project menu") project = button;
    ASSERT_TRUE(project);
    QTimer::singleShot(200, window.get(), [this] { take_from_menu("Versions of the design"); });
    QTest::mouseClick(project, Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return dialog()->isVisible(); }, 5'000));
    ASSERT_EQ(dialog()->numbers()->rowCount(), 1);
    EXPECT_EQ(dialog()->numbers()->item(0, 0)->text(), "Plate, step 1, size x");
    EXPECT_TRUE(dialog()->numbers()->item(0, 1)->text().startsWith("40"));
    EXPECT_TRUE(dialog()->numbers()->item(0, 2)->text().startsWith("50"));
    compared();
    EXPECT_TRUE(dialog()->parts()->item(0, 1)->text().startsWith("4.00 to 5.00 cm³: 1.00 added, 0.00 taken away"))
        << dialog()->parts()->item(0, 1)->text().toStdString();
    EXPECT_TRUE(QTest::qWaitFor([&] { return !dialog()->picture()->pixmap().isNull(); }, 10'000));
    EXPECT_TRUE(dialog()->picture()->accessibleDescription().contains("1.00 added"));
    QTest::mouseClick(dialog()->take_button(), Qt::LeftButton);
    settle();
    EXPECT_NEAR(volume("Plate"), 4000, 1e-6);
    EXPECT_EQ(dialog()->numbers()->rowCount(), 0);
    dialog()->close();
    window->activateWindow();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
    window->view()->setFocus();
    undo();
    EXPECT_NEAR(volume("Plate"), 5000, 1e-6);
    const QString file = QString::fromStdString((folder.path / "plate.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    open_dialog();
    EXPECT_EQ(dialog()->versions()->count(), 1);
    EXPECT_EQ(dialog()->numbers()->rowCount(), 1);
    // A name that is none, a version dropped.
    QTest::keyClick(dialog()->name(), Qt::Key_Return);
    EXPECT_EQ(dialog()->versions()->count(), 1);
    QPushButton* drop = nullptr;
    for (auto* button : dialog()->findChildren<QPushButton*>())
        if (button->text() == "Drop") drop = button;
    ASSERT_TRUE(drop);
    QTest::mouseClick(drop, Qt::LeftButton);
    EXPECT_EQ(dialog()->versions()->count(), 0);
    EXPECT_TRUE(dialog()->says().startsWith("No version is kept yet"));
}
