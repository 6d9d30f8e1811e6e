// Putting things together: the order in the column, the slider that takes the thing apart in the view, an order by
// hand.
#include "app/panels/fit_panel.h"
#include "app/view/view_tools.h"
#include "window_test.h"
#include <QLabel>
#include <QPushButton>
#include <QSlider>

using namespace lp;

namespace {

class Assembly : public lp::Window {
  protected:
    /// A tray with a brick in it and a lid over both.
    void open_box() {
        using nlohmann::json;
        auto slab = [](double x, double z, double at_z, const char* does = "join") -> json {
            return block(x, x, z, {{"at_z", at_z}, {"does", does}});
        };
        const json whole{{"format", "loose-peg"},
                         {"version", 1},
                         {"parts",
                          {{{"name", "Lid"}, {"steps", json::array({slab(40, 3, 20)})}},
                           {{"name", "Brick"}, {"steps", json::array({slab(20, 10, 3)})}},
                           {{"name", "Tray"}, {"steps", json::array({slab(40, 20, 0), slab(30, 20, 3, "cut")})}}}}};
        const auto file = folder.path / "box.json";
        std::ofstream(file) << whole;
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
    }
    AssemblySection* section() { return window->findChild<FitPanel*>()->assembly(); }
    void order() {
        say("put together");
        ASSERT_TRUE(QTest::qWaitFor([&] { return section() && section()->slider(); }, 20'000));
        settle();
    }
    /// How far a part is drawn above where it stands.
    double lifted(const char* name) {
        for (const SceneBody& b : window->view()->scene().bodies)
            if (b.part == part(name)->id) return b.place.translation().z();
        ADD_FAILURE() << name << " is not seen";
        return 0;
    }
};

} // namespace

TEST_F(Assembly, TheSliderTakesTheThingApartAndPutsItTogether) {
    open_box();
    order();
    EXPECT_EQ(session->workspace().stretch(), Stretch::Fit);
    EXPECT_TRUE(section()->move_words(0).contains("Tray")) << section()->move_words(0).toStdString();
    EXPECT_TRUE(section()->move_words(1).contains("Brick</b>: from above"));
    EXPECT_TRUE(section()->move_words(2).contains("Lid</b>: from above"));
    EXPECT_EQ(lifted("Lid"), 0) << "all in place";
    QSlider* slider = section()->slider();
    slider->setFocus();
    press(Qt::Key_Home);
    EXPECT_GT(lifted("Brick"), 20);
    EXPECT_GT(20 + lifted("Lid"), 13 + lifted("Brick")) << "its foot above the brick's top";
    EXPECT_EQ(lifted("Tray"), 0);
    EXPECT_TRUE(section()->words().startsWith("1 of 3: Tray")) << section()->words().toStdString();
    press(Qt::Key_PageUp);
    EXPECT_EQ(lifted("Brick"), 0) << "a whole move on";
    EXPECT_GT(lifted("Lid"), 5);
    EXPECT_TRUE(section()->words().startsWith("2 of 3: Brick, from above"));
    const double before = lifted("Lid");
    press(Qt::Key_Right);
    EXPECT_LT(lifted("Lid"), before) << "a tenth of a move";
    EXPECT_GT(lifted("Lid"), 0);
    EXPECT_EQ(QApplication::focusWidget(), section()->slider());
    press(Qt::Key_End);
    EXPECT_EQ(lifted("Lid"), 0);
    // Elsewhere nothing is drawn apart.
    press(Qt::Key_Home);
    go(Stretch::Shape);
    settle();
    EXPECT_EQ(lifted("Lid"), 0);
}

TEST_F(Assembly, AnOrderByHandIsCheckedKeptAndUndone) {
    open_box();
    order();
    QTest::mouseClick(section()->earlier_button(2), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return section()->move_words(1).contains("Lid"); }, 20'000));
    settle();
    EXPECT_EQ(session->project()->assembly.size(), 3u);
    EXPECT_TRUE(section()->move_words(2).contains("in its way")) << section()->move_words(2).toStdString();
    const QString file = QString::fromStdString((folder.path / "order.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(session->project()->assembly.size(), 3u);
    order();
    EXPECT_TRUE(section()->move_words(1).contains("Lid"));
    for (QPushButton* b : section()->findChildren<QPushButton*>())
        if (b->text() == "As worked out") {
            QTest::mouseClick(b, Qt::LeftButton);
            break;
        }
    ASSERT_TRUE(QTest::qWaitFor([&] { return section()->move_words(1).contains("Brick"); }, 20'000));
    EXPECT_TRUE(session->project()->assembly.empty());
    window->view()->setFocus();
    undo();
    EXPECT_EQ(session->project()->assembly.size(), 3u);
    QTest::mouseClick(section()->begin_button(), Qt::LeftButton);
    settle();
    EXPECT_FALSE(section()->slider()) << "put away";
}

TEST_F(Assembly, ATableOfNumbersIsExportedRowByRow) {
    open_part("Peg", nlohmann::json::array({block(10, 10, 10)}), Stretch::Export);
    const QString table = QString::fromStdString((folder.path / "sizes.csv").string()),
                  out = QString::fromStdString((folder.path / "rows").string());
    std::ofstream(table.toStdString()) << "name,side\nsmall,5 mm\n";
    session->export_table(table, out, {"stl"});
    ASSERT_TRUE(QTest::qWaitFor([&] { return said_wrong; }, 10'000));
    EXPECT_TRUE(said.contains("There is no number called")) << said.toStdString();
    std::ofstream(table.toStdString()) << "name\nsmall\n";
    session->export_table(table, out, {"stl"});
    ASSERT_TRUE(QTest::qWaitFor([&] { return said.contains("no numbers"); }, 10'000)) << said.toStdString();
}

TEST_F(Assembly, OnePartAmongTheOthersFaintWithASectionThroughAll) {
    open_box();
    order();
    QSlider* slider = section()->slider();
    slider->setFocus();
    press(Qt::Key_Home);
    choose("Brick");
    settle();
    auto faint = [&](const char* name) {
        for (const SceneBody& b : window->view()->scene().bodies)
            if (b.part == part(name)->id) return int(b.ghost);
        return -1;
    };
    say("one part alone, the others faint");
    settle();
    EXPECT_EQ(faint("Brick"), 0);
    EXPECT_EQ(faint("Lid"), 1);
    EXPECT_EQ(faint("Tray"), 1);
    EXPECT_GT(lifted("Lid"), 20) << "still taken apart";
    // What is faint lets the pointer through: over the lid's middle there is nothing, or the brick below it.
    const Vec3 lid(15, 15, lifted("Lid") + 21.5);
    const QPointF there = window->view()->project(lid);
    QTest::mouseMove(window->view(), there.toPoint());
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, there.toPoint());
    settle();
    for (const Pick& pick : session->workspace().selection()) EXPECT_NE(pick.part, part("Lid")->id);
    window->view_tools()->show_section(true);
    settle();
    EXPECT_TRUE(window->view()->scene().section);
    EXPECT_EQ(faint("Lid"), 1);
    window->view_tools()->show_section(false);
    choose("Brick");
    say("one part alone");
    settle();
    EXPECT_EQ(faint("Lid"), -1) << "not there at all";
    say("all parts again");
    settle();
    EXPECT_EQ(faint("Lid"), 0);
    EXPECT_EQ(faint("Tray"), 0);
}
