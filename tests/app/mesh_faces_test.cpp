// A foreign hanger whose pegs are measured, set apart, shortened and thinned by hand: faces of a mesh, clicked.
#include "app/view/map_legend.h"
#include "drop_file.h"
#include "made_project.h"
#include <QLabel>
#include <numbers>

using namespace lp;
using test::block;
using test::step;

namespace {

class MeshFacesWindow : public Window {
  protected:
    /// A plate of 60 x 30 x 4 with two pegs of 5 at 29.87 from middle to middle, 6 high, as a file of triangles that is
    /// dropped on the window.
    void bring_in_hanger() {
        auto peg = [](double x) {
            return step("cylinder", {{"diameter", 5}, {"height", 6}, {"at_x", x}, {"at_z", 4}});
        };
        const test::Made made = test::make({block(60, 30, 4), peg(-15), peg(14.87)});
        std::ofstream(folder / "hanger.stl", std::ios::binary) << write_stl_binary(*made.part().mesh);
        drop_file(*window.get(), folder / "hanger.stl");
        ASSERT_TRUE(QTest::qWaitFor([&] { return part("hanger") != nullptr; }, 20'000));
        settle();
        go(Stretch::Shape);
        settle();
        ASSERT_FALSE(session->results().evaluation()->parts[0].exact);
    }
    void click(const Vec3& at, Qt::KeyboardModifiers with = {}) {
        const QPoint place = window->view()->project(window->view()->scene().bodies[0].place * at).toPoint();
        QTest::mouseClick(window->view(), Qt::LeftButton, with, place);
        settle();
        (void)QTest::qWaitFor([&] { return session->results().selection_measure().has_value(); }, 2000);
        for (int i = 0; i < 5; ++i) QApplication::processEvents();
    }
    size_t chosen() { return session->workspace().selection().size(); }
    QString told() {
        QStringList all;
        for (QLabel* l : window->offers()->findChildren<QLabel*>()) all << l->text();
        return all.join(" | ");
    }
    double volume() { return session->results().evaluation()->parts.at(0).mass.volume_mm3; }
    QString note(size_t step) {
        return QString::fromStdString(session->results().evaluation()->parts.at(0).steps.at(step).says);
    }
    /// Towards the view: the side of a peg that is seen.
    Vec3 side_of(double x) { return seen_side(x, 8); }
    Vec3 seen_side(double x, double z) {
        const Vec3 towards = -window->view()->camera().forward();
        const Vec2 out = towards.head<2>().normalized() * 2.5;
        return {x + out.x(), out.y(), z};
    }
};

} // namespace

TEST_F(MeshFacesWindow, PegsAreMeasuredSetApartShortenedAndThinned) {
    bring_in_hanger();
    const double before = volume();
    click(side_of(-15));
    ASSERT_EQ(chosen(), 1u);
    EXPECT_TRUE(told().contains("round, ⌀ 5.00 mm")) << told().toStdString();
    click(side_of(14.87), Qt::ShiftModifier);
    ASSERT_EQ(chosen(), 2u);
    EXPECT_TRUE(told().contains("29.87")) << told().toStdString();
    take("Set apart");
    const size_t apart = part("hanger")->steps.size() - 1;
    EXPECT_TRUE(note(apart).contains("29.87 mm apart. Type what it should be")) << note(apart).toStdString();
    type(apart, "distance", "30");
    settle();
    EXPECT_TRUE(note(apart).contains("They stood 29.87 mm apart")) << note(apart).toStdString();
    click(side_of(-15.13));
    click(side_of(14.87), Qt::ShiftModifier);
    EXPECT_TRUE(told().contains("30.00")) << told().toStdString();
    // Both pegs thinner, by one number.
    take("Set a diameter");
    const size_t thin = part("hanger")->steps.size() - 1;
    EXPECT_TRUE(note(thin).contains("Now ⌀5 mm")) << note(thin).toStdString();
    type(thin, "diameter", "5 - 0.15");
    settle();
    const double pegs = before - 60 * 30 * 4;
    EXPECT_NEAR(volume() - 60 * 30 * 4, pegs * 4.85 * 4.85 / 25, 0.2);
    // Shorter by 1.5: the top is pushed down.
    click(Vec3(-15.13, 0, 10));
    ASSERT_EQ(chosen(), 1u);
    take("Push");
    const size_t push = part("hanger")->steps.size() - 1;
    type(push, "by", "-1.5");
    settle();
    EXPECT_NEAR(volume() - 60 * 30 * 4, pegs * 4.85 * 4.85 / 25 * (4.5 + 6) / 12, 0.3);
    undo();
    undo();
    EXPECT_NEAR(volume() - 60 * 30 * 4, pegs * 4.85 * 4.85 / 25, 0.2);
    redo();
    redo();
    // Kept in the file.
    const QString file = QString::fromStdString((folder.path / "kept.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_NEAR(volume() - 60 * 30 * 4, pegs * 4.85 * 4.85 / 25 * (4.5 + 6) / 12, 0.3);
}

TEST_F(MeshFacesWindow, MoreFacesAreChosenByMenuAndTakenAway) {
    bring_in_hanger();
    click(side_of(-15));
    ASSERT_EQ(chosen(), 1u);
    take("Choose more");
    take_from_menu("What lies beside");
    for (int i = 0; i < 200 && chosen() < 2; ++i) QTest::qWait(5);
    EXPECT_EQ(chosen(), 3u) << "the peg's top and the plate's";
    click(Vec3(25, 10, 4)); // the plate alone, then the peg: a chosen face that is clicked again means the body
    click(side_of(-15));
    click(Vec3(-15, 0, 10), Qt::ShiftModifier);
    ASSERT_EQ(chosen(), 2u);
    QStringList offered;
    for (const Offer& offer : window->offers()->offers()) offered << offer.words;
    EXPECT_TRUE(offered.contains("Remove faces")) << offered.join(", ").toStdString();
    take("Remove faces");
    const double one_peg = std::numbers::pi * 6.25 * 6;
    EXPECT_NEAR(volume(), 60 * 30 * 4 + one_peg, 2) << "the other one is left";
    undo();
    click(side_of(14.87));
    ASSERT_EQ(chosen(), 1u);
    say("the whole piece");
    for (int i = 0; i < 200 && chosen() < 2; ++i) QTest::qWait(5);
    EXPECT_EQ(chosen(), 10u) << "six sides of the plate, two pegs of two faces";
}

TEST_F(MeshFacesWindow, AWideNumberIsDoneAndOneThatCannotBeIsRefused) {
    bring_in_hanger();
    click(side_of(-15));
    take("Set a diameter");
    const size_t thin = part("hanger")->steps.size() - 1;
    type(thin, "diameter", "80");
    settle();
    // So wide that the plate's facets would fold over: the peg is set in anew, and the other is within it.
    EXPECT_TRUE(session->results().evaluation()->parts.at(0).steps.at(thin).ok);
    EXPECT_NEAR(volume(), 60 * 30 * 4 + std::numbers::pi * 1600 * 6, 200);
    type(thin, "diameter", "-3");
    settle();
    EXPECT_EQ(part("hanger")->steps[thin].fields.at("diameter").text(), "80") << "what cannot be is not taken";
    type(thin, "diameter", "4");
    settle();
    EXPECT_TRUE(session->results().evaluation()->parts.at(0).steps.at(thin).ok);
}

TEST_F(MeshFacesWindow, HowFarItIsOffTheFileIsColouredAndRead) {
    bring_in_hanger();
    auto* panel = window->findChild<CheckPanel*>();
    go(Stretch::Check);
    settle();
    EXPECT_EQ(panel->deviation_choice(), nullptr) << "it is as it came";
    say("block 10 10 6 0 0 4");
    go(Stretch::Check);
    settle();
    ASSERT_NE(panel->deviation_choice(), nullptr);
    QTest::mouseClick(panel->deviation_choice(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(panel->deviation_choice()->isChecked());
    EXPECT_FALSE(panel->walls_choice()->isChecked());
    ASSERT_EQ(session->results().check_map().size(), 1u);
    QStringList told;
    for (QLabel* label : panel->findChildren<QLabel*>()) told << label->text();
    EXPECT_TRUE(told.join(" ").replace(QChar::Nbsp, ' ').contains("At most 6.000 mm off what came from the file"))
        << told.join(" ").toStdString();
    const SceneBody* mapped = nullptr;
    for (const SceneBody& body : window->view()->scene().bodies)
        if (body.map) mapped = &body;
    ASSERT_NE(mapped, nullptr);
    // Under the pointer: the block's top is 6 above the plate, whose own top is where it was.
    auto under = [&](const Vec3& at) {
        const QPointF place = window->view()->project(mapped->place * at);
        std::optional<double> value;
        (void)QTest::qWaitFor([&] { return (value = window->legend()->value_at(place)).has_value(); }, 5000);
        return value.value_or(-1);
    };
    EXPECT_NEAR(under({0, 0, 10}), 6, 0.05);
    EXPECT_NEAR(under({26, -10, 4}), 0, 0.05);
    go(Stretch::Shape);
    EXPECT_TRUE(session->results().check_map().empty());
}

TEST_F(MeshFacesWindow, APatchIsBrushedAndMoved) {
    bring_in_hanger();
    const double before = volume();
    say("brush a face");
    ASSERT_TRUE(session->workspace().brush()) << said.toStdString();
    EXPECT_EQ(session->workspace().stretch(), Stretch::Shape);
    EXPECT_EQ(QApplication::focusWidget(), window->view()) << "the keys go where the brush is";
    auto at = [&](double x, double y) {
        return window->view()->project(window->view()->scene().bodies[0].place * Vec3(x, y, 4)).toPoint();
    };
    const size_t steps = part("hanger")->steps.size();
    QTest::mouseMove(window->view(), at(-4, 8));
    QTest::mousePress(window->view(), Qt::LeftButton, {}, at(-4, 8));
    for (double x = -3; x <= 4; ++x) QTest::mouseMove(window->view(), at(x, 8));
    EXPECT_EQ(part("hanger")->steps.size(), steps) << "nothing is kept while it is drawn";
    QTest::mouseRelease(window->view(), Qt::LeftButton, {}, at(4, 8));
    settle();
    ASSERT_EQ(part("hanger")->steps.size(), steps + 1);
    EXPECT_TRUE(note(steps).contains("The brush went over")) << note(steps).toStdString();
    EXPECT_EQ(chosen(), 1u) << "what was brushed is seen";
    // A second stroke goes on with the same face; the step's number is that of one undo.
    const QString once = note(steps);
    QTest::mousePress(window->view(), Qt::LeftButton, {}, at(0, 11));
    QTest::mouseRelease(window->view(), Qt::LeftButton, {}, at(0, 11));
    settle();
    ASSERT_EQ(part("hanger")->steps.size(), steps + 1);
    EXPECT_NE(note(steps), once);
    undo();
    EXPECT_EQ(note(steps), once);
    redo();
    press(Qt::Key_Escape);
    settle();
    EXPECT_FALSE(session->workspace().brush());
    ASSERT_EQ(chosen(), 1u) << "what was brushed stays chosen";
    EXPECT_NEAR(volume(), before, 1e-3);
    take("Move faces");
    const size_t move = part("hanger")->steps.size() - 1;
    type(move, "z", "1.5");
    settle();
    // Between the stroke's area and that of the ring of facets round it.
    EXPECT_GT(volume() - before, 1.5 * 6 * 8);
    EXPECT_LT(volume() - before, 1.5 * 9 * 20);
    undo();
    undo();
    EXPECT_NEAR(volume(), before, 1e-3);
}
