// Parts left where they were moved to, by hand on the window: by the curve's handle, by a typed position, back again.
#include "app/panels/fit_panel.h"
#include "app/panels/movement_section.h"
#include "window_test.h"
#include <QLabel>
#include <QPushButton>

using namespace lp;

namespace {

class Left : public lp::Window {
  protected:
    using json = nlohmann::json;

    /// A crate and a cover that swings about a boss at its left end; a knob sits on its right end.
    void open_crate() {
        json boss{{"kind", "cylinder"},
                  {"name", "boss"},
                  {"fields", {{"diameter", 14}, {"height", 12}, {"at_x", -20}, {"at_z", 20.5}}}};
        json cover = block(50, 12, 4, {{"at_z", 20.5}});
        cover["name"] = "cover";
        json knob{{"kind", "cylinder"}, {"name", "knob"}, {"fields", {{"diameter", 6}, {"height", 8}}}};
        const json seats = json::array({{{"face", "bottom of knob"}, {"on", "Cover"}, {"on_face", "top of cover"}}});
        const json whole{{"format", "loose-peg"},
                         {"version", 1},
                         {"parts",
                          {{{"name", "Crate"}, {"steps", json::array({block(60, 30, 20)})}},
                           {{"name", "Cover"}, {"steps", json::array({cover, boss})}},
                           {{"name", "Knob"}, {"steps", json::array({knob})}, {"place", {{"seats", seats}}}}}}};
        const auto file = folder.path / "crate.json";
        std::ofstream(file) << whole;
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
        go(Stretch::Fit);
        settle();
    }
    MovementSection* section() { return window->findChild<FitPanel*>()->movements(); }
    /// Where a place of a part's drawing is seen.
    Vec3 seen(const char* name, const Vec3& drawn) {
        for (const SceneBody& b : window->view()->scene().bodies)
            if (b.part == part(name)->id) return b.place * drawn;
        ADD_FAILURE() << name << " is not seen";
        return {};
    }
    /// The far end of the cover, swung about the boss.
    bool swung(double deg) {
        const Vec3 want(-20 + 45 * std::cos(radians(deg)), 45 * std::sin(radians(deg)), 20.5);
        return (seen("Cover", Vec3(25, 0, 20.5)) - want).norm() < 1e-3;
    }
    void swing_to(const char* to) {
        const QPoint at = window->view()->project(Vec3(-20, -7, 29)).toPoint();
        QTest::mouseMove(window->view(), at);
        QTest::mouseClick(window->view(), Qt::LeftButton, {}, at);
        settle();
        take("Turn it about this");
        ASSERT_EQ(session->project()->movements.size(), 1u);
        // Where it ends is typed at once.
        ASSERT_TRUE(QTest::qWaitFor([&] { return section()->field(0, "to")->editor() != nullptr; }, 5'000));
        ASSERT_EQ(QApplication::focusWidget(), section()->field(0, "to")->editor());
        QTest::keyClicks(QApplication::focusWidget(), to);
        QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
        settle();
        QTest::mouseClick(section()->check_button(0), Qt::LeftButton);
        settle();
        ASSERT_TRUE(section()->curve(0)) << said.toStdString();
    }
    bool told(const QString& words) {
        for (const QLabel* label : window->findChild<FitPanel*>()->findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(words)) return true;
        return false;
    }
};

} // namespace

TEST_F(Left, ACoverIsLeftOpenByTheHandleAndItsKnobGoesAlong) {
    open_crate();
    swing_to("90 deg");
    EXPECT_TRUE(told("Knob goes along")) << "it is seated on the cover";
    const Vec3 knob = seen("Knob", Vec3::Zero());
    section()->curve(0)->setFocus();
    press(Qt::Key_End);
    EXPECT_TRUE(swung(90));
    EXPECT_GT((seen("Knob", Vec3::Zero()) - knob).norm(), 10);
    // Left there: the same is seen, and the curve is not told to be old.
    QTest::mouseClick(section()->leave_button(0), Qt::LeftButton);
    settle();
    EXPECT_EQ(session->project()->movements[0].stands, "90 deg");
    EXPECT_TRUE(swung(90));
    ASSERT_TRUE(section()->curve(0));
    EXPECT_EQ(section()->curve(0)->position(), 90);
    EXPECT_FALSE(told("lead it along again"));
    // What is designed and printed is as drawn.
    go(Stretch::Shape);
    settle();
    EXPECT_TRUE(swung(0));
    EXPECT_TRUE(seen("Knob", Vec3::Zero()).isApprox(knob));
    go(Stretch::Fit);
    settle();
    EXPECT_TRUE(swung(90));
    // The handle leads on from there, and elsewhere and back.
    section()->curve(0)->setFocus();
    press(Qt::Key_Home);
    EXPECT_TRUE(swung(0));
    EXPECT_TRUE(seen("Knob", Vec3::Zero()).isApprox(knob));
    window->view()->setFocus();
    undo();
    EXPECT_TRUE(swung(0)) << "as drawn";
    EXPECT_EQ(session->project()->movements[0].stands, "");
    redo();
    EXPECT_EQ(session->project()->movements[0].stands, "90 deg");
    EXPECT_TRUE(swung(90)) << seen("Cover", Vec3(25, 0, 20.5)).transpose();
    const QString kept = QString::fromStdString((folder.path / "crate.loosepeg").string());
    ASSERT_TRUE(window->save_to(kept));
    ASSERT_TRUE(session->document().open(kept));
    settle();
    go(Stretch::Fit);
    settle();
    EXPECT_TRUE(swung(90)) << "saved and opened";
}

TEST_F(Left, APositionIsTypedRefusedFollowedByThePuttingTogetherAndTakenBack) {
    open_crate();
    swing_to("120 deg");
    type_into(section()->field(0, "stands"), "30");
    settle();
    EXPECT_TRUE(swung(30)) << said.toStdString();
    type_into(section()->field(0, "stands"), "121");
    settle();
    EXPECT_TRUE(swung(30)) << "beyond its end";
    EXPECT_EQ(session->project()->movements[0].stands, "30");
    QTest::keyClick(section()->field(0, "stands")->editor(), Qt::Key_Escape);
    say("put together");
    ASSERT_TRUE(QTest::qWaitFor([&] { return told("As it stands: Cover at 30°"); }, 20'000));
    type_into(section()->field(0, "stands"), "");
    settle();
    EXPECT_TRUE(swung(0)) << "empty: as drawn";
    type_into(section()->field(0, "stands"), "45 deg");
    settle();
    EXPECT_TRUE(swung(45));
    QPushButton* back = section()->findChild<QPushButton*>("movement-as-drawn");
    ASSERT_TRUE(back);
    QTest::mouseClick(back, Qt::LeftButton);
    settle();
    EXPECT_TRUE(swung(0));
    EXPECT_EQ(session->project()->movements[0].stands, "");
}

TEST_F(Left, ANumberSwingsItAndWhatItCannotBeIsAFinding) {
    open_crate();
    swing_to("120 deg");
    set_number("opening", "20", "deg"); // a new number is a length at first
    set_number("swing", "15 deg");
    ASSERT_EQ(session->project()->parameters.size(), 2u);
    for (const Parameter& number : session->project()->parameters) EXPECT_EQ(number.kind, QuantityKind::Angle);
    go(Stretch::Fit);
    settle();
    type_into(section()->field(0, "stands"), "opening * 2");
    settle();
    EXPECT_EQ(session->project()->movements[0].stands, "opening * 2");
    EXPECT_TRUE(swung(40));
    set_number("opening", "70 deg");
    go(Stretch::Fit);
    settle();
    EXPECT_TRUE(swung(0));
    EXPECT_TRUE(told("It stands as drawn: Cover stands at 140°, but moves from 0° to 120°."));
    set_number("opening", "55 deg");
    go(Stretch::Fit);
    settle();
    EXPECT_TRUE(swung(110));
}

TEST_F(Left, ARimIsTurnedAboutAtOnceToo) {
    open_crate();
    const QPoint at = window->view()->project(Vec3(-20, -7, 32.5)).toPoint();
    QTest::mouseMove(window->view(), at);
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, at);
    settle();
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    ASSERT_EQ(session->workspace().selection()[0].kind, Pick::Kind::Edge);
    window->view()->setFocus();
    press(Qt::Key_1);
    settle();
    ASSERT_EQ(session->project()->movements.size(), 1u) << "where things are fitted it is led along first";
    ASSERT_TRUE(QTest::qWaitFor([&] { return section()->field(0, "to")->editor() != nullptr; }, 5'000));
    QTest::keyClicks(QApplication::focusWidget(), "100");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    settle();
    type_into(section()->field(0, "stands"), "90");
    settle();
    EXPECT_EQ(session->project()->movements[0].stands, "90");
    EXPECT_TRUE(swung(90) || swung(-90)) << "a rim looks either way";
}

TEST_F(Left, WhatIsTypedGoesToTheMovementThatIsBeingWorkedOn) {
    open_crate();
    swing_to("120 deg");
    const QPoint knob = window->view()->project(seen("Knob", Vec3(0, -3, 5))).toPoint();
    QTest::mouseMove(window->view(), knob);
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, knob);
    settle();
    take("Turn it about this");
    ASSERT_EQ(session->project()->movements.size(), 2u);
    ASSERT_TRUE(QTest::qWaitFor([&] { return section()->field(1, "to")->editor() != nullptr; }, 5'000));
    QTest::keyClicks(QApplication::focusWidget(), "70");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    settle();
    ASSERT_TRUE(QTest::qWaitFor([&] { return QApplication::focusWidget() == section()->field(1, "to"); }, 5'000))
        << "the hand is still there once the column was filled anew";
    for (int i = 0; i < 3; ++i) press(Qt::Key_Tab);
    QTest::keyClicks(QApplication::focusWidget(), "5");
    QTest::keyClick(QApplication::focusWidget(), Qt::Key_Return);
    settle();
    EXPECT_EQ(session->project()->movements[0].stands, "");
    EXPECT_EQ(session->project()->movements[1].stands, "5");
}
