// Putting things together: the order in the column, the slider that takes the thing apart in the view, an order by
// hand.
#include "app/panels/fit_panel.h"
#include "app/view/view_tools.h"
#include "dialog_answer.h"
#include "wind_station.h"
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

TEST_F(Assembly, AStationOf22PartsGoesTogetherByTheSlider) { // act 2
    const auto file = folder.path / "station.json";
    std::ofstream(file) << test::WindStation::document();
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    ASSERT_TRUE(QTest::qWaitFor([&] { return session->wait_until_done(); }, 60'000));
    order();
    ASSERT_EQ(session->project()->parts.size(), 22u);
    auto row_of = [&](const char* name) {
        for (size_t i = 0; i < 22; ++i)
            if (section()->move_words(i).contains(QString(name) + "</b>")) return i;
        ADD_FAILURE() << name << " is in no move";
        return size_t(0);
    };
    for (size_t i = 0; i < 22; ++i)
        EXPECT_FALSE(section()->move_words(i).contains("in its way")) << section()->move_words(i).toStdString();
    EXPECT_TRUE(section()->move_words(row_of("Arm 2")).contains("slide")) << "the contact that it makes";
    for (int i = 1; i <= 4; ++i)
        EXPECT_LT(row_of(("Insert " + std::to_string(i)).c_str()), row_of("Lid")) << "in its pocket before the lid";
    EXPECT_LT(row_of("Board"), row_of("Lid"));
    // Taken apart, then a move at a time until everything is in place.
    section()->slider()->setFocus();
    press(Qt::Key_Home);
    EXPECT_GT(lifted("Cap nut"), lifted("Lid"));
    EXPECT_GT(lifted("Lid"), lifted("Board"));
    EXPECT_GT(lifted("Board"), 20);
    for (size_t i = 1; i < 22; ++i) {
        EXPECT_TRUE(section()->words().startsWith(QString("%1 of 22").arg(i))) << section()->words().toStdString();
        press(Qt::Key_PageUp);
        if (i == row_of("Lid")) {
            EXPECT_NEAR(lifted("Lid"), 30, 1e-6) << "on its box";
            EXPECT_GT(lifted("Screw 1"), 60);
        }
    }
    press(Qt::Key_End);
    EXPECT_NEAR(lifted("Lid"), 30, 1e-6);
    // One part on its own, the others faint, a section through all, taken apart or not.
    press(Qt::Key_Home);
    choose("Hub");
    say("one part alone, the others faint");
    size_t faint = 0;
    for (const SceneBody& b : window->view()->scene().bodies) faint += b.ghost;
    EXPECT_EQ(faint, 21u);
    say("section");
    EXPECT_TRUE(window->view()->scene().section);
    window->view_tools()->show_section(false);
    say("all parts again");
    // The lid before an insert: what cannot be reached then is said.
    ASSERT_EQ(row_of("Lid"), row_of("Insert 1") + 1);
    QTest::mouseClick(section()->earlier_button(row_of("Lid")), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return row_of("Lid") + 1 == row_of("Insert 1"); }, 60'000));
    EXPECT_TRUE(section()->move_words(row_of("Insert 1")).contains("Lid is in its way"))
        << section()->move_words(row_of("Insert 1")).toStdString();
}

TEST_F(Assembly, APartIsSeatedOnAnotherByTwoFacesAndFollowsIt) {
    using nlohmann::json;
    const json box = block(40, 40, 20), sign = block(30, 4, 24, {{"at_x", 70}});
    const json whole{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts",
         {{{"name", "Box"}, {"steps", json::array({box})}}, {{"name", "Sign"}, {"steps", json::array({sign})}}}}};
    const auto file = folder.path / "sign.json";
    std::ofstream(file) << whole;
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    settle();
    go(Stretch::Fit);
    settle();
    auto stands = [&] { return session->results().evaluation()->part(part("Sign")->id)->place; };
    auto click = [&](const Vec3& place, Qt::KeyboardModifiers with = {}) {
        const QPoint at = window->view()->project(place).toPoint();
        QTest::mouseMove(window->view(), at);
        QTest::mouseClick(window->view(), Qt::LeftButton, with, at);
        settle();
    };
    click(Vec3(70, -2, 12)); // its front
    click(Vec3(0, 0, 20), Qt::ShiftModifier);
    ASSERT_EQ(session->workspace().selection().size(), 2u);
    take("Seat Sign on Box");
    EXPECT_LT((stands() * Vec3(70, -2, 12) - Vec3(0, 0, 20)).norm(), 1e-6) << "middle on middle";
    EXPECT_LT((stands().linear() * Vec3(0, -1, 0) + Vec3::UnitZ()).norm(), 1e-9) << "it lies on its front";
    // The gap is typed where it stands, by the name of a fit.
    choose("Sign");
    unfold("fold-place");
    ValueField* gap = window->findChild<FitPanel*>()->place_field("seat_gap_1");
    type_into(gap, "slide");
    settle();
    const double slide = find_fit(session->project()->fits, "slide")->gap_mm;
    EXPECT_GT((stands() * Vec3(70, -2, 12)).z(), 20 + slide - 1e-6);
    const double above = (stands() * Vec3(70, -2, 12)).z() - 20;
    // What cannot be as well is refused in words, and nothing is changed.
    click(stands() * Vec3(70, 2, 18)); // its back, which is above now
    click(Vec3(-10, -20, 8), Qt::ShiftModifier);
    ASSERT_EQ(session->workspace().selection().size(), 2u);
    take("Seat Sign on Box");
    EXPECT_TRUE(said_wrong && said.contains("cannot be seated on Box as well")) << said.toStdString();
    EXPECT_EQ(part("Sign")->place.seats.size(), 1u);
    // A box of another height takes it along.
    go(Stretch::Shape);
    choose("Box");
    settle();
    type(0, "size_z", "35");
    settle();
    EXPECT_NEAR((stands() * Vec3(70, -2, 12)).z(), 35 + above, 1e-6);
    const QString kept = QString::fromStdString((folder.path / "sign.loosepeg").string());
    ASSERT_TRUE(window->save_to(kept));
    ASSERT_TRUE(session->document().open(kept));
    settle();
    EXPECT_NEAR((stands() * Vec3(70, -2, 12)).z(), 35 + above, 1e-6);
    // Taken off its seat, and back.
    go(Stretch::Fit);
    choose("Sign");
    settle();
    if (!window->findChild<QPushButton*>("seat-off-1")) unfold("fold-place");
    QTest::mouseClick(window->findChild<QPushButton*>("seat-off-1"), Qt::LeftButton);
    settle();
    EXPECT_TRUE(stands().isApprox(Transform::Identity(), 0)) << "as drawn";
    window->view()->setFocus();
    undo();
    EXPECT_NEAR((stands() * Vec3(70, -2, 12)).z(), 35 + above, 1e-6);
}

TEST_F(Assembly, OnlySeatsOfFlatOnFlatAskWhatIsLeftFree) {
    using nlohmann::json;
    auto round = [](const char* name, double diameter, double height) {
        return json{{"kind", "cylinder"}, {"name", name}, {"fields", {{"diameter", diameter}, {"height", height}}}};
    };
    const json seats = json::array({{{"face", "side of rod"}, {"on", "Stake"}, {"on_face", "side of pole"}},
                                    {{"face", "bottom of rod"}, {"on", "Stake"}, {"on_face", "top of pole"}}});
    json rod = round("rod", 4, 30);
    rod["fields"]["at_x"] = 60;
    const json whole{{"format", "loose-peg"},
                     {"version", 1},
                     {"parts",
                      {{{"name", "Stake"}, {"steps", json::array({round("pole", 12, 20)})}},
                       {{"name", "Rod"}, {"steps", json::array({rod})}, {"place", {{"seats", seats}}}}}}};
    const auto file = folder.path / "stake.json";
    std::ofstream(file) << whole;
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    settle();
    go(Stretch::Fit);
    choose("Rod");
    unfold("fold-place");
    auto* fits = window->findChild<FitPanel*>();
    QStringList lines;
    for (const QLabel* label : fits->findChildren<QLabel*>())
        if (label->text().startsWith("Seat ")) lines << label->text();
    EXPECT_EQ(lines, QStringList({"Seat 1: on Stake, about one axis", "Seat 2: on Stake"}));
    auto told = [&](const char* words) {
        for (const QLabel* label : fits->findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(words)) return true;
        return false;
    };
    EXPECT_TRUE(told("1, none to settle"));
    ASSERT_EQ(fits->contact_rows().size(), 1u);
    EXPECT_EQ(fits->contact_rows()[0]->title(), "Stake and Rod");
    EXPECT_EQ(fits->contact_rows()[0]->below(), "lies on its seat");
    EXPECT_FALSE(fits->place_field("seat_gap_1")) << "there is nothing to leave free about an axis";
    ASSERT_TRUE(fits->place_field("seat_gap_2"));
    type_into(fits->place_field("seat_gap_2"), "1.5");
    settle();
    const Transform stands = session->results().evaluation()->part(part("Rod")->id)->place;
    EXPECT_LT((stands * Vec3(60, 0, 0) - Vec3(0, 0, 21.5)).norm(), 1e-6) << "the second seat's, and no other's";
}

TEST_F(Assembly, ATableOfNumbersIsExportedRowByRow) {
    open_part("Peg", nlohmann::json::array({block(10, 10, 10)}), Stretch::Export);
    const QString table = QString::fromStdString((folder.path / "sizes.csv").string()),
                  out = QString::fromStdString((folder.path / "rows").string());
    std::filesystem::create_directory(out.toStdString());
    const DialogAnswer answer(table, out);
    std::ofstream(table.toStdString()) << "name,side\nsmall,5 mm\n";
    say("export a table of numbers");
    ASSERT_TRUE(QTest::qWaitFor([&] { return said_wrong; }, 10'000)) << answer.said();
    EXPECT_TRUE(said.contains("There is no number called")) << said.toStdString();
    std::ofstream(table.toStdString()) << "name\nsmall\n";
    say("export a table of numbers");
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
