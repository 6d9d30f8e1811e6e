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

TEST_F(Assembly, AWayIsTypedWhereNoStraightOneIsFree) {
    using nlohmann::json;
    auto room = [](double x, double z, double at_x) -> json {
        return block(x, 20, z, {{"at_x", at_x}, {"at_z", 5}, {"does", "cut"}});
    };
    const json whole{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts",
         {{{"name", "Case"}, {"steps", json::array({block(60, 60, 40), room(20, 40, -15), room(50, 10, 0)})}},
          {{"name", "Slug"}, {"steps", json::array({block(18, 18, 8, {{"at_x", 15}, {"at_z", 5.3}})})}}}}};
    const auto file = folder.path / "case.json";
    std::ofstream(file) << whole;
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    settle();
    order();
    ASSERT_TRUE(section()->move_words(1).contains("in its way")) << section()->move_words(1).toStdString();
    ASSERT_TRUE(section()->way_button(1));
    auto type = [&](const QString& leg) {
        ASSERT_TRUE(
            QTest::qWaitFor([&] { return section()->way_field() && section()->way_field()->editing(); }, 10'000));
        QTest::keyClicks(QApplication::focusWidget(), leg);
        press(Qt::Key_Return);
        settle();
    };
    QTest::mouseClick(section()->way_button(1), Qt::LeftButton);
    type("left 30");
    EXPECT_EQ(part("Slug")->way_out.size(), 1u);
    QTest::mouseClick(section()->way_button(1), Qt::LeftButton);
    type("upwards");
    EXPECT_EQ(part("Slug")->way_out.size(), 1u) << "refused, and still being typed";
    ASSERT_TRUE(section()->way_field() && section()->way_field()->editing());
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_A, Qt::ControlModifier);
    type("up 20");
    ASSERT_TRUE(QTest::qWaitFor([&] { return section()->move_words(1).contains("from above, then"); }, 20'000))
        << section()->move_words(1).toStdString();
    EXPECT_FALSE(section()->move_words(1).contains("in its way"));
    // Drawn on its way: round the corner.
    auto place = [&] {
        for (const SceneBody& b : window->view()->scene().bodies)
            if (b.part == part("Slug")->id) return Vec3(b.place.translation());
        return Vec3(1e9, 0, 0);
    };
    section()->slider()->setFocus();
    press(Qt::Key_Home);
    EXPECT_NEAR(place().x(), -30, 1e-6);
    EXPECT_GT(place().z(), 30);
    for (int i = 0; i < 8; ++i) press(Qt::Key_Right);
    EXPECT_GT(place().x(), -30);
    EXPECT_NEAR(place().z(), 0, 1e-6) << "along the floor of the room";
    window->view()->setFocus();
    undo();
    settle();
    EXPECT_EQ(part("Slug")->way_out.size(), 1u);
    undo();
    settle();
    EXPECT_TRUE(part("Slug")->way_out.empty());
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
    say("section");
    settle();
    EXPECT_TRUE(window->view()->scene().section);
    EXPECT_EQ(QApplication::focusWidget(), window->view_tools()->section_place()) << "where it goes is typed next";
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
