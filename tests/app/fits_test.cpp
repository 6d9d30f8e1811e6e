// By hand on the window: the acts of fits, movement, gauges and cards.
#include "app/panels/fit_panel.h"
#include "app/panels/print_times.h"
#include "app/view/map_legend.h"
#include "layers/layer_plan.h"
#include "window_test.h"
#include <QLabel>
#include <QPushButton>

using namespace lp;

namespace {

class Fits : public lp::Window {
  protected:
    void type(ValueField* field, const char* text) {
        type_into(field, text);
        settle();
    }
    PartId new_part(const char* name, bool stand_in, const std::vector<Step>& steps) {
        return set_up(name, stand_in, steps);
    }
    static Step step(const char* kind, std::map<std::string, std::string> fields, const char* name = "") {
        return step_of_kind(kind, fields, name);
    }
    void set(const char* part_name, size_t index, const char* field, const char* text) {
        go(Stretch::Shape);
        choose(part_name);
        lp::Window::type(index, field, text);
        settle();
    }
    const ContactResult* contact(const std::string& a, const std::string& b) {
        for (const ContactResult& c : session->results().analysis()->contacts)
            if (c.a == a && c.b == b) return &c;
        ADD_FAILURE() << "no contact of " << a << " and " << b;
        static const ContactResult none;
        return &none;
    }
    FitPanel* panel() {
        if (session->workspace().stretch() != Stretch::Fit) go(Stretch::Fit); // else the hand stays where it is
        settle();
        return window->findChild<FitPanel*>();
    }
    void all_made() {
        for (const PartResult& p : session->results().evaluation()->parts)
            for (const StepOutcome& s : p.steps) EXPECT_TRUE(s.ok) << p.name << ": " << s.says;
    }
};

} // namespace

TEST_F(Fits, ANotchOfTheRulerIsDraggedAndEveryContactWithThatFitFollows) {
    // Three rods in one bar, each at slide.
    for (const char* name : {"Left", "Middle", "Right"})
        new_part(name, true,
                 {step("cylinder", {{"diameter", "6 mm"},
                                    {"height", "30 mm"},
                                    {"at_x", *name == 'L'   ? "-20 mm"
                                             : *name == 'M' ? "0 mm"
                                                            : "20 mm"},
                                    {"at_z", "-5 mm"}})});
    new_part("Bar", false,
             {step("block", {{"size_x", "60 mm"}, {"size_y", "14 mm"}, {"size_z", "10 mm"}}),
              step("cut_with", {{"tool", "Left"}, {"fit", "slide"}}),
              step("cut_with", {{"tool", "Middle"}, {"fit", "slide"}}),
              step("cut_with", {{"tool", "Right"}, {"fit", "slide"}})});
    all_made();
    auto gap = [&](const char* name) { return contact(name, "Bar")->gap->min_mm; };
    const double before = gap("Left");
    // The notch is taken by its middle and let go five hundredths further.
    auto drag = [&](QWidget* on, const QPointF& from, double to_x) {
        QTest::mousePress(on, Qt::LeftButton, {}, from.toPoint());
        for (double t : {0.3, 0.6, 1.0}) {
            const QPoint at(int(std::lround(from.x() + t * (to_x - from.x()))), int(from.y()));
            QMouseEvent move(QEvent::MouseMove, at, on->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(on, &move);
        }
        QTest::mouseRelease(on, Qt::LeftButton, {}, QPoint(int(std::lround(to_x)), int(from.y())));
        settle();
    };
    GapRuler* ruler = panel()->ruler();
    ASSERT_NE(ruler, nullptr);
    QPointF notch = ruler->notch_rect("slide").center();
    drag(ruler, notch, GapScale::x(0.30, ruler->width()));
    EXPECT_NEAR(find_fit(session->project()->fits, "slide")->gap_mm, 0.30, 0.0051) << "pixels are hundredths here";
    const double slide = find_fit(session->project()->fits, "slide")->gap_mm;
    for (const char* name : {"Left", "Middle", "Right"}) {
        EXPECT_NEAR(gap(name) - before, slide - 0.25, 2e-3) << name;
        EXPECT_EQ(contact(name, "Bar")->state, FitState::Right) << name;
    }
    // One contact's ring goes to another notch; the others stay.
    ContactRow* row = nullptr;
    for (ContactRow* r : panel()->contact_rows())
        if (r->title().startsWith("Middle")) row = r;
    ASSERT_NE(row, nullptr);
    const double loose = find_fit(session->project()->fits, "loose")->gap_mm;
    drag(row, row->ring_rect().center(), GapScale::x(loose, row->width()));
    EXPECT_EQ(contact("Middle", "Bar")->fit, "loose");
    EXPECT_NEAR(gap("Middle") - before, loose - 0.25, 2e-3);
    EXPECT_NEAR(gap("Left") - before, slide - 0.25, 2e-3);
    undo();
    undo();
    for (const char* name : {"Left", "Middle", "Right"}) EXPECT_NEAR(gap(name), before, 1e-6) << name;
    // The same by keys: the ruler has the focus, right to slide, a hundredth up, then typed.
    ruler = panel()->ruler();
    ruler->setFocus();
    for (int i = 0; i < 8 && ruler->chosen() != "slide"; ++i) press(Qt::Key_Right);
    ASSERT_EQ(ruler->chosen(), "slide");
    press(Qt::Key_Up);
    settle();
    EXPECT_NEAR(find_fit(session->project()->fits, "slide")->gap_mm, 0.26, 1e-9);
    ruler = panel()->ruler();
    EXPECT_TRUE(ruler->hasFocus()) << "the hand stays on the rule";
    EXPECT_EQ(ruler->chosen(), "slide");
    for (char c : std::string("0.33"))
        QTest::keyClick(QApplication::focusWidget(), c); // the first key opens the number
    press(Qt::Key_Return);
    settle();
    EXPECT_NEAR(find_fit(session->project()->fits, "slide")->gap_mm, 0.33, 1e-9);
    EXPECT_NEAR(gap("Right") - before, 0.08, 2e-3);
}

TEST_F(Fits, StandInsSinkIntoAHolderEachAtItsFit) { // act 1
    new_part("Cell", true,
             {step("cylinder", {{"diameter", "14.5 mm"}, {"height", "50 mm"}, {"at_x", "-30 mm"}, {"at_z", "5 mm"}}),
              step("repeat", {{"what", "all"}, {"count", "3"}, {"by_x", "17 mm"}, {"does", "new"}})});
    new_part("Magnet", true,
             {step("cylinder", {{"diameter", "7 mm"}, {"height", "2 mm"}, {"at_x", "30 mm"}, {"at_z", "18 mm"}})});
    new_part(
        "Vial", true,
        {step("cylinder",
              {{"diameter", "12 mm"}, {"height", "40 mm"}, {"at_x", "30 mm"}, {"at_y", "14 mm"}, {"at_z", "4 mm"}})});
    new_part("Board", true,
             {step("block", {{"size_x", "30 mm"},
                             {"size_y", "1.6 mm"},
                             {"size_z", "25 mm"},
                             {"at_x", "-10 mm"},
                             {"at_y", "16 mm"},
                             {"at_z", "8 mm"}})});
    new_part("Holder", false,
             {step("block", {{"size_x", "90 mm"}, {"size_y", "50 mm"}, {"size_z", "20 mm"}}),
              step("cut_with", {{"tool", "Cell"}, {"fit", "free"}}),
              step("cut_with", {{"tool", "Magnet"}, {"fit", "press"}}),
              step("cut_with", {{"tool", "Vial"}, {"fit", "loose"}}),
              step("cut_with", {{"tool", "Board"}, {"fit", "slide"}})});
    all_made();
    const double pi = std::numbers::pi;
    auto round = [&](double d, double gap, double depth) { return pi * std::pow(d / 2 + gap, 2) * (depth + gap); };
    auto want = [&](double free) {
        // The magnet's top lies in the holder's top face: its pocket is open, two deep and a gap below.
        return 90 * 50 * 20 - 3 * round(14.5, free, 15) - round(7, 0.1, 2) - round(12, 0.4, 16) -
               (30 + 0.5) * (1.6 + 0.5) * (12 + 0.25);
    };
    EXPECT_NEAR(volume("Holder"), want(0.5), 0.01);
    for (const ContactResult& c : session->results().analysis()->contacts) EXPECT_EQ(c.state, FitState::Right) << c.a;
    // One fit is changed in its sentence: the three pockets that use it follow, no other.
    set("Holder", 1, "fit", "0.8 mm");
    EXPECT_NEAR(volume("Holder"), want(0.8), 0.01);
    undo();
    EXPECT_NEAR(volume("Holder"), want(0.5), 0.01);
    // And in the table of fits.
    FitPanel* fits = panel();
    unfold("fold-fits");
    type(fits->fit_field("free"), "0.6");
    EXPECT_NEAR(volume("Holder"), want(0.6), 0.01);
}

TEST_F(Fits, AChainIsTypedLongerAndAMovedLinkIsPinched) { // act 2
    say("chain 5");
    PartId id = session->workspace().active_part();
    rename("Chain");
    all_made();
    EXPECT_EQ(session->results().analysis()->contacts.size(), 4u);
    for (const ContactResult& c : session->results().analysis()->contacts) {
        EXPECT_EQ(c.state, FitState::Right);
        EXPECT_NEAR(c.gap->min_mm, 0.35, 0.015);
        EXPECT_FALSE(c.fused);
    }
    double five = session->results().evaluation()->parts[0].mass.volume_mm3;
    lp::Window::type(0, "links", "6");
    settle();
    EXPECT_EQ(session->results().analysis()->contacts.size(), 5u);
    EXPECT_GT(session->results().evaluation()->parts[0].mass.volume_mm3, five);
    // Its section through a joint, the gap mapped.
    FitPanel* fits = panel();
    ASSERT_EQ(fits->contact_rows().size(), 5u);
    EXPECT_TRUE(fits->contact_rows()[0]->title().contains("link 1 and link 2"));
    QTest::mouseClick(fits->contact_rows()[1], Qt::LeftButton);
    settle();
    take("Map the gap");
    ASSERT_FALSE(session->results().gap_map().empty());
    EXPECT_TRUE(session->workspace().section());
    size_t near = 0, all = 0;
    for (float gap : *session->results().gap_map()[0].values) {
        if (gap < 0) continue;
        ++all;
        near += gap < 0.38;
    }
    EXPECT_GT(all, 300u);
    EXPECT_GT(double(near) / double(all), 0.4) << "the socket is even round the knuckle";
    take("Map off");
    EXPECT_TRUE(session->results().gap_map().empty());
    EXPECT_FALSE(session->workspace().section());
    // A link moved by a tenth of a millimetre: the rings of its joints are pinched.
    go(Stretch::Shape);
    session->workspace().clear_selection();
    say("move 0.1");
    lp::Window::type(1, "what", "link 3");
    settle();
    ASSERT_EQ(session->project()->part(id)->steps.back().fields.at("by_x"), "0.1");
    EXPECT_EQ(contact("Chain/link 2", "Chain/link 3")->state, FitState::Tight)
        << contact("Chain/link 2", "Chain/link 3")->gap->min_mm;
    EXPECT_EQ(contact("Chain/link 1", "Chain/link 2")->state, FitState::Right);
}

TEST_F(Fits, AHingeIsLedRoundAndStopsWhereItsWallsMeet) { // act 3
    // A wall on the right leaf reaches over the other's barrel by a hair: it fuses. Moved clear it passes.
    PartId id = new_part("Flap", false,
                         {step("hinge", {{"length", "30 mm"}, {"leaf", "20 mm"}, {"thickness", "2.4 mm"}}, "flap"),
                          step("block",
                               {{"size_x", "2 mm"},
                                {"size_y", "30 mm"},
                                {"size_z", "9 mm"},
                                {"at_x", "5.1 mm"},
                                {"at_y", "15 mm"},
                                {"does", "new"}},
                               "wall"),
                          step("join", {{"what", "flap right leaf, wall"}})});
    all_made();
    const ContactResult* c = contact("Flap/flap right leaf", "Flap/flap left leaf");
    EXPECT_TRUE(c->fused) << "a tenth beside the barrel fuses in the print";
    EXPECT_EQ(c->state, FitState::Tight);
    FitPanel* fits = panel();
    EXPECT_TRUE(fits->contact_rows()[0]->below().contains("fuses when printed"))
        << fits->contact_rows()[0]->below().toStdString();
    set("Flap", 1, "at_x", "8 mm");
    EXPECT_FALSE(contact("Flap/flap right leaf", "Flap/flap left leaf")->fused);
    EXPECT_EQ(contact("Flap/flap right leaf", "Flap/flap left leaf")->state, FitState::Right);
    // Led round through 180 degrees, the wall meets the other leaf on the way: where its corner comes down.
    KeptMovement movement;
    movement.moving = "Flap/flap right leaf";
    movement.point = {"0 mm", "0 mm", "4 * 0.6946584 mm"};
    movement.direction = {"0", "1", "0"};
    movement.step = "2 deg";
    set_up(movement);
    type(panel()->movements()->field(0, "to"), "-180 deg");
    (void)id;
    fits = panel();
    ASSERT_TRUE(fits->movements() && fits->movements()->check_button(0));
    QTest::mouseClick(fits->movements()->check_button(0), Qt::LeftButton);
    settle();
    MovementId key = session->project()->movements[0].id;
    const MovementOutcome* outcome = session->results().movement_outcome(key);
    ASSERT_TRUE(outcome) << said.toStdString();
    ASSERT_TRUE(outcome->result.first_contact);
    // The wall's corner at (x, z) from the axis meets the left leaf's top, h under the axis, at
    // atan2(z, x) + asin(h / R) beyond the half turn.
    double zc = 4 * std::sin(radians(44)), h = zc - 2.4;
    double corner = 1e9;
    for (double x : {7.0, 9.0}) {
        double z = 9 - zc, r = std::hypot(x, z);
        corner = std::min(corner, 180 + degrees(std::asin(h / r)) - degrees(std::atan2(z, x)));
    }
    EXPECT_NEAR(-*outcome->result.first_contact, corner, 0.1);
    ASSERT_TRUE(outcome->play);
    EXPECT_GT(outcome->play->shifts[1].plus, 0.1);
    EXPECT_LT(outcome->play->shifts[0].plus, 0.5) << "the bumps hold it along the axis";
    // The handle is dragged by keys: the view follows, and stops on contact.
    MovementCurve* curve = fits->movements()->curve(0);
    ASSERT_TRUE(curve);
    curve->setFocus();
    QTest::keyClick(curve, Qt::Key_Right);
    EXPECT_NEAR(curve->position(), -2, 1e-9);
    bool turned = false;
    for (const SceneBody& b : window->view()->scene().bodies)
        turned = turned || !b.place.isApprox(Transform::Identity());
    EXPECT_TRUE(turned);
    QTest::keyClick(curve, Qt::Key_End);
    EXPECT_NEAR(curve->position(), *outcome->result.first_contact, 1e-9);
    // Saved, opened again: the movement is there.
    QString file = QString::fromStdString((folder / "flap.loosepeg").string());
    ASSERT_TRUE(session->document().save(file));
    session->document().start_new();
    settle();
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(session->project()->movements.size(), 1u);
}

TEST_F(Fits, AContactIsChosenByItsRingInTheView) {
    new_part("Peg", false, {step("cylinder", {{"diameter", "8 mm"}, {"height", "30 mm"}, {"at_z", "5 mm"}})});
    new_part("Base", false,
             {step("block", {{"size_x", "30 mm"}, {"size_y", "30 mm"}, {"size_z", "20 mm"}}),
              step("cut_with", {{"tool", "Peg"}, {"fit", "slide"}})});
    panel();
    ASSERT_EQ(window->view()->marks().size(), 1u);
    const ViewMark ring = window->view()->marks().front();
    const QPoint at = window->view()->project(ring.at).toPoint();
    QTest::mouseMove(window->view(), at);
    EXPECT_TRUE(QTest::qWaitFor([&] { return window->view()->cursor().shape() == Qt::PointingHandCursor; }, 5'000));
    EXPECT_TRUE(window->view()->toolTip().startsWith("Peg in Base: slide")) << window->view()->toolTip().toStdString();
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, at);
    settle();
    ASSERT_TRUE(session->workspace().active_contact());
    EXPECT_EQ(session->workspace().active_contact(), session->results().analysis()->contacts.front().ref());
    EXPECT_TRUE(session->workspace().selection().empty()) << "not what lies behind it";
    EXPECT_EQ(window->view()->marks().front().title, "Peg in Base") << "told where it is";
    // With Shift the hand reaches through to the part.
    window->view()->setFocus();
    press(Qt::Key_Escape);
    settle();
    ASSERT_FALSE(session->workspace().active_contact());
    QTest::mouseClick(window->view(), Qt::LeftButton, Qt::ShiftModifier,
                      window->view()->project(window->view()->marks().front().at).toPoint());
    settle();
    EXPECT_FALSE(session->workspace().active_contact());
    EXPECT_EQ(session->workspace().selection().size(), 1u);
}

TEST_F(Fits, AGaugeTeachesTheCardAndEverySlideFollows) { // act 4
    new_part("Peg", false, {step("cylinder", {{"diameter", "8 mm"}, {"height", "30 mm"}, {"at_z", "5 mm"}})});
    new_part("Base", false,
             {step("block", {{"size_x", "30 mm"}, {"size_y", "30 mm"}, {"size_z", "20 mm"}}),
              step("cut_with", {{"tool", "Peg"}, {"fit", "slide"}})});
    new_part("Other", false,
             {step("block", {{"size_x", "10 mm"}, {"size_y", "10 mm"}, {"size_z", "5 mm"}, {"at_x", "60 mm"}})});
    const double pi = std::numbers::pi;
    double before = 30 * 30 * 20 - pi * 4.25 * 4.25 * 15.25;
    EXPECT_NEAR(volume("Base"), before, 0.01);
    FitPanel* fits = panel();
    const std::pair<const char*, const char*> ladder[] = {
        {"Its diameter", "8"}, {"Gap of number 1", "0.2"}, {"Gap of the last", "0.6"}, {"Numbers", "5"}};
    for (const auto& [words, number] : ladder) {
        ValueField* field = nullptr;
        for (auto* one : panel()->gauges()->findChildren<ValueField*>())
            if (one->accessibleName().startsWith(words)) field = one;
        ASSERT_TRUE(field) << words;
        type(field, number);
        settle();
    }
    QTest::mouseClick(panel()->gauges()->add_button(), Qt::LeftButton);
    settle();
    ASSERT_EQ(session->project()->parts.size(), 4u);
    EXPECT_TRUE(session->project()->parts.back()->gauge);
    const PartAnalysis* gauge = session->results().analysis()->part(session->workspace().active_part());
    ASSERT_TRUE(gauge && gauge->plan) << "it is sliced in the layer strip";
    EXPECT_LT(gauge->plan->time_s, 1800);
    fits = panel();
    type(fits->gauges()->felt_field("slide"), "3");
    EXPECT_NEAR(session->project()->printer.outside_growth_mm, 0.175, 0.002);
    EXPECT_NEAR(volume("Base"), 30 * 30 * 20 - pi * 4.40 * 4.40 * 15.40, 0.2);
    EXPECT_TRUE(said.contains("Base")) << said.toStdString();
    EXPECT_FALSE(said.contains("Other"));
    undo();
    EXPECT_NEAR(volume("Base"), before, 0.01);
    // Nonsense is refused with the reason, and nothing changes.
    type(panel()->gauges()->felt_field("slide"), "9");
    EXPECT_TRUE(said_wrong);
    EXPECT_NEAR(session->project()->printer.outside_growth_mm, 0.1, 1e-12);
}

TEST_F(Fits, ATestPieceIsBoxedOutOfAJoint) { // act 6
    new_part("Peg", false, {step("cylinder", {{"diameter", "8 mm"}, {"height", "60 mm"}, {"at_z", "20 mm"}})});
    new_part("Base", false,
             {step("block", {{"size_x", "120 mm"}, {"size_y", "90 mm"}, {"size_z", "40 mm"}}),
              step("cut_with", {{"tool", "Peg"}, {"fit", "slide"}})});
    FitPanel* fits = panel();
    QTest::mouseClick(fits->contact_rows()[0], Qt::LeftButton);
    settle();
    take("Test piece");
    ASSERT_EQ(session->project()->parts.size(), 3u);
    const PartResult& piece = session->results().evaluation()->parts[2];
    EXPECT_TRUE(piece.all_ok());
    EXPECT_EQ(piece.bodies.size(), 2u);
    EXPECT_LE(piece.box.sizes().maxCoeff(), 30.001);
    undo();
    EXPECT_EQ(session->project()->parts.size(), 2u);
}

TEST_F(Fits, APickedRoundFaceOffersToTurnAndAWishIsSetByDigit) {
    new_part("Wheel", false, {step("cylinder", {{"diameter", "20 mm"}, {"height", "8 mm"}})});
    new_part("Post", false,
             {step("block", {{"size_x", "10 mm"}, {"size_y", "10 mm"}, {"size_z", "8 mm"}, {"at_x", "15.4 mm"}})});
    panel();
    const auto& faces = session->results().evaluation()->parts[0].bodies[0].body.tessellation().faces;
    for (size_t f = 0; f < faces.size(); ++f)
        if (faces[f].kind == SurfaceKind::Cylinder)
            session->workspace().select({Pick::Kind::Face, part("Wheel")->id, 0, f, faces[f].centre}, false);
    settle();
    take("Turn it about this");
    ASSERT_EQ(session->project()->movements.size(), 1u);
    EXPECT_TRUE(session->project()->movements[0].axis);
    FitPanel* fits = panel();
    type(fits->movements()->field(0, "to"), "90 deg");
    EXPECT_EQ(session->project()->movements[0].to, "90 deg");
    QTest::mouseClick(panel()->movements()->check_button(0), Qt::LeftButton);
    settle();
    const MovementOutcome* outcome = session->results().movement_outcome(session->project()->movements[0].id);
    ASSERT_TRUE(outcome);
    EXPECT_NEAR(outcome->result.smallest_gap_mm, 0.4, 0.012) << "a wheel keeps its distance all the way";
    // The two parts come near each other without a step: the wish is set by an offer.
    QTest::keyClick(window->view(), Qt::Key_Escape);
    ASSERT_EQ(panel()->contact_rows().size(), session->results().analysis()->contacts.size());
    QTest::mouseClick(panel()->contact_rows()[0], Qt::LeftButton);
    settle();
    take("loose");
    ASSERT_EQ(session->project()->contacts.size(), 1u);
    EXPECT_EQ(session->results().analysis()->contacts[0].state, FitState::Right);
}

TEST_F(Fits, CardsAndMetalFitsAreTyped) {
    new_part("Thing", false, {step("block", {})});
    FitPanel* fits = panel();
    type(fits->cards()->field("smallest_open_gap_mm"), "0.3");
    EXPECT_DOUBLE_EQ(session->project()->printer.smallest_open_gap_mm, 0.3);
    type(panel()->cards()->field("material slide"), "0.31");
    EXPECT_DOUBLE_EQ(session->project()->material.fits.at("slide"), 0.31);
    type(panel()->cards()->field("metal"), "25 H7/p6");
    bool told = false;
    for (QLabel* label : panel()->cards()->findChildren<QLabel*>())
        told = told || label->text().contains("clearance -35") || label->text().contains("clearance −35");
    EXPECT_TRUE(told);
    undo();
    undo();
    EXPECT_DOUBLE_EQ(session->project()->printer.smallest_open_gap_mm, 0.25);
}

TEST_F(Fits, AFormulaTypedForACardStandsThereAgainAndFollowsItsNumber) {
    new_part("Thing", false, {step("block", {})});
    auto in_the_field = [&](const char* name) {
        ValueField* field = panel()->cards()->field(name);
        field->setFocus();
        QTest::keyClick(field, Qt::Key_Return);
        auto* line = field->findChild<QLineEdit*>();
        const std::string text = line ? line->text().toStdString() : "not open";
        QTest::keyClick(line ? static_cast<QWidget*>(line) : field, Qt::Key_Escape);
        return text;
    };
    const std::string before = panel()->cards()->field("outside_growth_mm")->shown().toStdString();
    type(panel()->cards()->field("outside_growth_mm"), "0.02*6");
    settle();
    EXPECT_EQ(panel()->cards()->field("outside_growth_mm")->shown().toStdString(), "0.12 mm");
    EXPECT_EQ(in_the_field("outside_growth_mm"), "0.02*6");
    type(panel()->cards()->field("outside_growth_mm"), "no_such*6");
    EXPECT_EQ(session->project()->printer.outside_growth_mm, 0.12) << "refused, nothing changed";
    press(Qt::Key_Escape);
    type(panel()->cards()->field("outside_growth_mm"), "0.1");
    settle();
    EXPECT_EQ(in_the_field("outside_growth_mm"), "0.10 mm");
    press(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(in_the_field("outside_growth_mm"), "0.02*6") << "undone, the formula is there again";
    press(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(panel()->cards()->field("outside_growth_mm")->shown().toStdString(), before);
}

TEST_F(Fits, ATwistLockIsLedAlongItsLegs) { // act 5
    new_part("Rain body", false,
             {step("cylinder", {{"diameter", "50 mm"}, {"height", "30 mm"}}),
              step("cylinder", {{"diameter", "40.8 mm"}, {"height", "40 mm"}, {"at_z", "-5 mm"}, {"does", "cut"}}),
              step("lock_groove", {{"radius", "20.4 mm"},
                                   {"depth", "2 mm"},
                                   {"width", "4 mm"},
                                   {"at_z", "36 mm"},
                                   {"legs", "slide -16, turn 40, slide 2"},
                                   {"fit", "0.4 mm"}})});
    new_part("Funnel neck", false,
             {step("cylinder", {{"diameter", "40 mm"}, {"height", "30 mm"}, {"at_z", "15 mm"}}),
              step("lock_lugs", {{"radius", "20 mm"}, {"depth", "2 mm"}, {"width", "4 mm"}, {"at_z", "36 mm"}})});
    all_made();
    // Right as it stands, and says that it was not moved; the offer leads it along the groove.
    panel();
    ASSERT_EQ(panel()->contact_rows().size(), 1u);
    QTest::mouseClick(panel()->contact_rows()[0], Qt::LeftButton);
    settle();
    auto says = [&](const char* words) {
        for (QLabel* label : panel()->findChildren<QLabel*>())
            if (label->isVisible() && label->text().contains(words)) return true;
        return false;
    };
    EXPECT_TRUE(says("not yet moved"));
    // The hand stays on the row that was clicked, and the offers' numbers are keys there as in the view.
    EXPECT_EQ(QApplication::focusWidget(), panel()->contact_rows()[0]);
    ASSERT_TRUE(window->offers()->offers()[0].words.startsWith("Lead it along its way"));
    press(Qt::Key_1);
    settle();
    EXPECT_FALSE(says("not yet moved"));
    EXPECT_EQ(QApplication::focusWidget(), panel()->contact_rows()[0]) << "the hand stays where it was";
    ASSERT_EQ(session->project()->movements.size(), 1u);
    EXPECT_EQ(session->project()->movements[0].legs, "slide -16, turn 40, slide 2");
    take("Lead it along its way"); // again: the same movement, no second one
    EXPECT_EQ(session->project()->movements.size(), 1u);
    MovementId id = session->project()->movements[0].id;
    const MovementOutcome* outcome = session->results().movement_outcome(id);
    ASSERT_TRUE(outcome) << said.toStdString();
    EXPECT_FALSE(outcome->result.first_contact);
    EXPECT_NEAR(outcome->result.smallest_gap_mm, 0.4, 0.03);
    // Legs that are no path are refused, and what was there stays.
    type(panel()->movements()->field(0, "legs"), "round and round");
    EXPECT_EQ(session->project()->movements[0].legs, "slide -16, turn 40, slide 2");
    QTest::keyClick(panel()->movements()->field(0, "legs")->editor(), Qt::Key_Escape);
    // The width of the groove's fit is changed: the same way now has more room.
    set("Rain body", 2, "fit", "0.7 mm");
    QTest::mouseClick(panel()->movements()->check_button(0), Qt::LeftButton);
    settle();
    ASSERT_TRUE(session->results().movement_outcome(id));
    EXPECT_TRUE(session->results().movement_is_current(id));
    EXPECT_NEAR(session->results().movement_outcome(id)->result.smallest_gap_mm, 0.4, 0.03)
        << "the neck in its bore is now the nearest";
    // Turned too far it touches, and the contact says so once it is led; what was undone was not led.
    set("Rain body", 2, "fit", "0.4 mm");
    QTest::mouseClick(panel()->contact_rows()[0], Qt::LeftButton);
    settle();
    EXPECT_TRUE(says("not yet moved"));
    type(panel()->movements()->field(0, "legs"), "slide -16, turn 50");
    QTest::mouseClick(panel()->movements()->check_button(0), Qt::LeftButton);
    settle();
    EXPECT_TRUE(says("touches when moved"));
    undo();
    EXPECT_TRUE(says("not yet moved"));
}

TEST_F(Fits, AHaloOfAnOpenMeshIsMendedByOnePress) {
    TriMesh open = test::sphere(8, 12);
    open.triangles.pop_back();
    const auto file = folder.path / "open knob.stl";
    std::ofstream(file, std::ios::binary) << write_stl_binary(open);
    session->bring_in({QString::fromStdString(file.string())});
    settle();
    say("halo");
    ASSERT_EQ(window->sheet()->rows().size(), 2u);
    StepRow* row = window->sheet()->rows()[1];
    ASSERT_TRUE(row->cure()->isVisible());
    EXPECT_EQ(row->cure()->text(), "Mend it before this step");
    row->cure()->setFocus();
    QTest::keyClick(row->cure(), Qt::Key_Space);
    settle();
    ASSERT_EQ(window->sheet()->rows().size(), 3u);
    all_made();
    EXPECT_EQ(session->project()->parts.back()->steps[1].kind, "mend");
    EXPECT_FALSE(session->results().evaluation()->parts.back().bodies[0].halos.empty());
    undo();
    EXPECT_FALSE(session->results().evaluation()->parts.back().steps[1].ok);
}

TEST_F(Fits, AVanishedWallIsToldInTheSheet) {
    new_part(
        "Peg", false,
        {step("block",
              {{"size_x", "8 mm"}, {"size_y", "8 mm"}, {"size_z", "30 mm"}, {"at_x", "10.75 mm"}, {"at_z", "3 mm"}})});
    new_part("Socket", false,
             {step("block", {{"size_x", "30 mm"}, {"size_y", "20 mm"}, {"size_z", "20 mm"}}),
              step("cut_with", {{"tool", "Peg"}, {"fit", "loose"}})});
    choose("Socket");
    StepRow* row = window->sheet()->rows().at(1);
    EXPECT_TRUE(row->text().contains("takes away the wall at the right face, which is 0.25 mm thick"))
        << row->text().toStdString();
    lp::Window::type(1, "fit", "0.15 mm");
    settle();
    EXPECT_FALSE(window->sheet()->rows().at(1)->text().contains("takes away"));
}

TEST_F(Fits, WhatAPrintTookMakesTheTimesToldFromThenOn) {
    new_part("Mast", false, {step("cylinder", {{"diameter", "30 mm"}, {"height", "60 mm"}})});
    settle();
    auto field = [&]() -> ValueField* {
        auto* times = panel()->findChild<PrintTimes*>();
        return times ? times->field() : nullptr;
    };
    auto told = [&] { return session->results().analysis()->time_s; };
    const double before = told();
    for (const char* wrong : {"soon", "22 h, 400 h", "0 h, 3 h", "1 h, 2 h, 3 h"}) {
        type_into(field(), wrong);
        EXPECT_TRUE(session->project()->printer.timed.empty()) << wrong;
        if (field()->editing()) QTest::keyClick(field()->editor(), Qt::Key_Escape);
    }
    type(field(), "22 h, 29.4 h");
    ASSERT_EQ(session->project()->printer.timed.size(), 1u);
    const double factor = time_factor(session->project()->printer.timed, plan_start_s).factor;
    EXPECT_GT(factor, 1.2);
    EXPECT_NEAR(told(), plan_start_s + factor * (before - plan_start_s), 1);
    QStringList words;
    for (QLabel* label : panel()->findChildren<QLabel*>()) words << label->text();
    EXPECT_TRUE(words.join("|").contains("Mast: told") || words.join("|").contains("told 22 h 0 min, took 29 h 24 min"))
        << words.join("|").toStdString();
    EXPECT_TRUE(words.join("|").contains("Times told are multiplied by 1.2")) << words.join("|").toStdString();
    undo();
    EXPECT_NEAR(told(), before, 1e-6);
    redo();
    for (QPushButton* button : panel()->findChildren<QPushButton*>())
        if (button->accessibleName() == "Forget the time of print 1") {
            QTest::mouseClick(button, Qt::LeftButton);
            break;
        }
    settle();
    EXPECT_TRUE(session->project()->printer.timed.empty());
    EXPECT_NEAR(told(), before, 1e-6);
}

TEST_F(Fits, TheInfillIsChosenFromItsList) {
    new_part("Block", false, {step("block", {{"size_x", "30 mm"}, {"size_y", "30 mm"}, {"size_z", "10 mm"}})});
    ValueField* field = nullptr;
    for (ValueField* f : panel()->findChildren<ValueField*>())
        if (f->accessibleName() == "Infill, laid as") field = f;
    ASSERT_NE(field, nullptr);
    QTest::mouseClick(field, Qt::LeftButton, {}, field->rect().center());
    take_from_menu("gyroid");
    settle();
    EXPECT_EQ(session->project()->printer.infill, Infill::Gyroid);
    undo();
    EXPECT_EQ(session->project()->printer.infill, Infill::Lines);
}

TEST_F(Fits, ContactsAreMeasuredAsPrintedUntilSomethingChanges) {
    new_part("Peg", false, {step("cylinder", {{"diameter", "8 mm"}, {"height", "10 mm"}})});
    new_part("Plate", false,
             {step("block", {{"size_x", "24 mm"}, {"size_y", "24 mm"}, {"size_z", "10 mm"}}),
              step("cut_with", {{"tool", "Peg"}, {"fit", "0.5 mm"}})});
    settle();
    ASSERT_NE(panel()->print_button(), nullptr);
    QTest::mouseClick(panel()->print_button(), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return said.startsWith("Measured 1 contact"); }, 20'000)) << said.toStdString();
    settle();
    ASSERT_EQ(panel()->contact_rows().size(), 1u);
    auto words = [&] {
        return panel()->contact_rows()[0]->accessibleName() + panel()->contact_rows()[0]->accessibleDescription();
    };
    EXPECT_TRUE(words().contains("as printed 0.1")) << words().toStdString();
    const ContactRow* row = panel()->contact_rows()[0];
    EXPECT_FALSE(row->printed_rect().isEmpty()) << "its small ring stands beside the drawn one";
    EXPECT_LT(row->printed_rect().center().x(), row->ring_rect().center().x());
    type(panel()->cards()->field("outside_growth_mm"), "0.05");
    EXPECT_FALSE(words().contains("as printed")) << "it was of another printer";
}

TEST_F(Fits, SizesMeasuredOnAPrintTeachTheCard) {
    new_part("Foot", false,
             {step("block", {{"size_x", "60 mm"}, {"size_y", "40 mm"}, {"size_z", "10 mm"}}),
              step("cylinder", {{"diameter", "8 mm"}, {"height", "10 mm"}, {"does", "cut"}})});
    all_made();
    auto field = [&](size_t i) { return panel()->measured()->found_field(i); };
    ASSERT_NE(field(2), nullptr) << "its two sizes that lie, and its hole";
    EXPECT_EQ(field(3), nullptr) << "its height tells nothing of the card";
    auto enter = [&](size_t i, const char* typed) {
        type_into(field(i), typed);
        settle();
    };
    enter(0, "60.3");
    EXPECT_FALSE(said_wrong) << said.toStdString();
    EXPECT_NEAR(session->project()->printer.outside_growth_mm, 0.15, 1e-3);
    enter(2, "7.6 mm");
    EXPECT_NEAR(session->project()->printer.hole_shrink_at(8), 0.2, 2e-3);
    EXPECT_NEAR(session->project()->printer.outside_growth_mm, 0.15, 2e-3);
    bool told = false;
    for (QLabel* label : panel()->measured()->findChildren<QLabel*>())
        told = told || label->text().contains("7.60 mm instead of 8.00 mm");
    EXPECT_TRUE(told);
    // Nonsense is refused in place, and nothing is lost.
    enter(1, "4.0");
    EXPECT_EQ(session->project()->printer.measured.size(), 2u);
    press(Qt::Key_Escape);
    settle();
    undo();
    EXPECT_EQ(session->project()->printer.measured.size(), 1u);
    redo();
    QTest::mouseClick(panel()->measured()->findChild<QPushButton*>("forget-size"), Qt::LeftButton);
    settle();
    EXPECT_EQ(session->project()->printer.measured.size(), 1u);
    EXPECT_EQ(session->project()->printer.hole_shrinks.size(), 0u);
}

TEST_F(Fits, AJointWithAPlainFootTurnsAsDrawnAndHoldsAsPrinted) {
    new_part("Knob", false,
             {step("captive_pin",
                   {{"foot", "plain"}, {"pin", "4 mm"}, {"height", "6 mm"}, {"collar", "10 mm"}, {"bulge", "0.8 mm"}},
                   "knob")});
    all_made();
    KeptMovement movement;
    movement.moving = "Knob/knob pin";
    movement.to = "90 deg";
    movement.step = "30 deg";
    set_up(movement);
    auto outcome = [&] { return session->results().movement_outcome(session->project()->movements[0].id); };
    QTest::mouseClick(panel()->movements()->check_button(0), Qt::LeftButton);
    settle();
    ASSERT_TRUE(outcome());
    EXPECT_FALSE(outcome()->result.first_contact) << "as drawn it turns";
    auto lead_printed = [&] {
        QTest::mouseClick(panel()->movements()->printed_button(0), Qt::LeftButton);
        EXPECT_TRUE(QTest::qWaitFor([&] { return outcome() && outcome()->printed; }, 120'000)) << said.toStdString();
        settle();
    };
    lead_printed();
    ASSERT_TRUE(outcome()->result.first_contact) << "its first layer is one piece";
    bool told = false;
    for (QLabel* label : panel()->movements()->findChildren<QLabel*>())
        told = told || label->text().startsWith("As printed in practice: Touches");
    EXPECT_TRUE(told);
    // Its foot chamfered, it turns as printed too.
    set("Knob", 0, "foot", "chamfered");
    lead_printed();
    EXPECT_FALSE(outcome()->result.first_contact);
}
