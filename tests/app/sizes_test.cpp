// Sizes drawn out by hand in the view: a height between its jaws, a ring, a dial; typed meanwhile, kept or dropped.
#include "app/view/size_handles.h"
#include "window_test.h"

using namespace lp;

class Sizes : public Window {
  protected:
    double value(const char* name, size_t step = 0) {
        const Step& s = session->project()->parts.front()->steps.at(step);
        const StepField& field = *find_step_kind(s.kind)->field(name);
        return evaluate_expression(field_text(s, field), quantity_of(field.kind), {}).value_or(-1);
    }
    double volume() { return session->results().evaluation()->parts.front().mass.volume_mm3; }
    SizeHandles* sizes() { return window->sizes(); }
    /// Where the handle of a field is taken hold of; fails where there is none.
    QPointF grip(const std::string& field) {
        const QPointF at = sizes()->grip(field);
        EXPECT_FALSE(at.isNull()) << "no handle of " << field;
        return at;
    }
    void send(QEvent::Type type, const QPointF& at, Qt::MouseButtons buttons) {
        ViewWidget* view = window->view();
        const Qt::MouseButton button = type == QEvent::MouseMove ? Qt::NoButton : Qt::LeftButton;
        QMouseEvent event(type, at, view->mapToGlobal(at), button, buttons, {});
        QApplication::sendEvent(view, &event);
        QApplication::processEvents();
    }
    /// Presses a handle and draws the end of its size to a place of the world, without letting go.
    void draw(const std::string& field, const Vec3& to) {
        QPointF tip;
        for (const SizeHandles::Size& size : sizes()->target()->sizes) {
            const SizeHandle& h = size.handle;
            const Vec3 right = window->view()->camera().forward().cross(Vec3::UnitZ()).normalized();
            const Vec3 way = h.shape == SizeHandle::Shape::Ring ? right : h.way;
            if (h.field == field) tip = window->view()->project(h.from + way * size.value / h.gain);
        }
        const QPointF from = grip(field), end = from + window->view()->project(to) - tip;
        send(QEvent::MouseButtonPress, from, Qt::LeftButton);
        for (int i = 1; i <= 6; ++i) send(QEvent::MouseMove, from + (end - from) * i / 6, Qt::LeftButton);
        last_ = end;
    }
    void let_go() {
        send(QEvent::MouseButtonRelease, last_, Qt::NoButton);
        settle();
    }
    void add(const char* line) {
        window->view()->setFocus();
        say(line);
        settle();
        if (!sizes()->target()) { // typed numbers leave the sentence closed: a click on it takes it in hand
            ValueField* first = window->sheet()->rows().back()->field(window->sheet()->rows().back()->stops().front());
            first->setFocus();
            settle();
        }
        window->view()->setFocus();
        QApplication::processEvents();
    }
    QPointF last_;
};

TEST_F(Sizes, AHeightIsDrawnOutAndTheNumberFollows) {
    add("block 40 30 20");
    ASSERT_TRUE(sizes()->target()) << "the sizes of the sentence in hand stand in the view";
    EXPECT_EQ(sizes()->target()->sizes.size(), 3u);
    draw("size_z", {0, 0, 32});
    EXPECT_NEAR(value("size_z"), 20, 1e-9) << "nothing is kept while it is held";
    EXPECT_TRUE(sizes()->words().startsWith("size z 3")) << sizes()->words().toStdString();
    let_go();
    EXPECT_NEAR(value("size_z"), 32, 1.01);
    EXPECT_NEAR(value("size_z"), std::round(value("size_z") * 10) / 10, 1e-9) << "round numbers at this zoom";
    EXPECT_NEAR(volume(), 40 * 30 * value("size_z"), 1e-6);
    undo();
    EXPECT_NEAR(volume(), 40 * 30 * 20, 1e-6) << "one act is one undo";
}

TEST_F(Sizes, AWidthGrowsToBothSidesAndStaysUnderTheHand) {
    add("block 40 30 20");
    draw("size_x", {27, 0, 10});
    EXPECT_LT(QLineF(sizes()->grip("size_x"), last_).length(), 12) << "the handle is where the pointer is";
    let_go();
    EXPECT_NEAR(value("size_x"), 54, 2.01) << "both sides";
    EXPECT_NEAR(sizes()->target()->sizes.front().value, value("size_x"), 1e-9);
}

TEST_F(Sizes, ADiameterIsARing) {
    add("cylinder 20 30");
    draw(
        "diameter", Vec3(0, 0, 30) + (window->sizes()->target()->sizes[1].handle.from - Vec3(0, 0, 30)) +
                        [&] { // to the right in the picture, 16 from the axis
                            Vec3 right = window->view()->camera().forward().cross(Vec3::UnitZ()).normalized();
                            return Vec3(right * 16);
                        }());
    let_go();
    EXPECT_NEAR(value("diameter"), 32, 1.01);
    EXPECT_NEAR(volume(), std::numbers::pi / 4 * value("diameter") * value("diameter") * 30, 0.5);
}

TEST_F(Sizes, WhatIsDrawnOutIsSeenMeanwhileAndEscapeDropsIt) {
    add("block 40 30 20");
    draw("size_z", {0, 0, 40});
    QElapsedTimer clock;
    clock.start();
    while (clock.elapsed() < 5000 && std::fabs(volume() - 40 * 30 * 20) < 1) QTest::qWait(20);
    EXPECT_GT(volume(), 40 * 30 * 30) << "the picture follows";
    EXPECT_NEAR(value("size_z"), 20, 1e-9);
    press(Qt::Key_Escape);
    settle();
    EXPECT_NEAR(volume(), 40 * 30 * 20, 1e-6);
    let_go();
    EXPECT_NEAR(value("size_z"), 20, 1e-9);
    EXPECT_FALSE(sizes()->busy());
}

TEST_F(Sizes, PressedItWaitsForATypedNumber) {
    add("block 40 30 20");
    const QPointF at = grip("size_z");
    last_ = at;
    send(QEvent::MouseButtonPress, at, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, at, Qt::NoButton);
    ASSERT_TRUE(sizes()->busy());
    for (char c : std::string("1/2 in")) QTest::keyClick(window->view(), c);
    EXPECT_TRUE(sizes()->words().contains("1/2 in"));
    press(Qt::Key_Return);
    settle();
    EXPECT_NEAR(value("size_z"), 12.7, 1e-9);
    // Nonsense is refused in words, and nothing is lost.
    const QPointF again = grip("size_z");
    send(QEvent::MouseButtonPress, again, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, again, Qt::NoButton);
    for (char c : std::string("tall")) QTest::keyClick(window->view(), c);
    press(Qt::Key_Return);
    settle();
    EXPECT_TRUE(said_wrong);
    EXPECT_NEAR(value("size_z"), 12.7, 1e-9);
    for (const char* bad : {"0", "-5", "1e12"}) {
        const QPointF grip_now = grip("size_z");
        send(QEvent::MouseButtonPress, grip_now, Qt::LeftButton);
        send(QEvent::MouseButtonRelease, grip_now, Qt::NoButton);
        for (const char* c = bad; *c; ++c) QTest::keyClick(window->view(), *c);
        press(Qt::Key_Return);
        settle();
        EXPECT_NEAR(value("size_z"), 12.7, 1e-9) << bad;
    }
}

TEST_F(Sizes, AWorkedOutNumberSaysWhereItComesFrom) {
    set_number("tall", "20 mm");
    add("block 40 30 tall");
    const QPointF at = grip("size_z");
    last_ = at;
    send(QEvent::MouseButtonPress, at, Qt::LeftButton);
    send(QEvent::MouseButtonRelease, at, Qt::NoButton);
    EXPECT_FALSE(sizes()->busy());
    EXPECT_TRUE(said.contains("tall")) << said.toStdString();
    EXPECT_NEAR(volume(), 40 * 30 * 20, 1e-6);
}

TEST_F(Sizes, ATurnHasADialAndNothingInHandHasNoHandles) {
    add("block 40 10 20");
    add("turn");
    ASSERT_TRUE(sizes()->target());
    ASSERT_EQ(sizes()->target()->sizes.size(), 1u);
    const QPointF from = grip("angle");
    // A quarter of the way round the dial, by its own middle and axis.
    const SizeHandle& dial = sizes()->target()->sizes[0].handle;
    const QPointF middle = window->view()->project(dial.from);
    send(QEvent::MouseButtonPress, from, Qt::LeftButton);
    for (int i = 1; i <= 12; ++i) {
        const double a = radians(4.0 * i);
        const QPointF r = from - middle; // about the axis as the picture shows it
        last_ = middle + QPointF(r.x() * std::cos(a), -std::fabs(r.x()) * std::sin(a) * 0.5);
        send(QEvent::MouseMove, last_, Qt::LeftButton);
    }
    let_go();
    EXPECT_NE(value("angle", 1), 90) << "it was turned";
    EXPECT_NEAR(volume(), 40 * 10 * 20, 1e-6);
    press(Qt::Key_Escape);
    settle();
    EXPECT_FALSE(sizes()->target()) << "nothing is in hand";
    go(Stretch::Check);
    settle();
    EXPECT_FALSE(sizes()->target());
}

TEST_F(Sizes, AClickOnAFaceTakesItsStepInHand) {
    add("block 40 30 20");
    press(Qt::Key_Escape);
    settle();
    ASSERT_FALSE(sizes()->target());
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, window->view()->project({8, -6, 20}).toPoint());
    settle();
    ASSERT_TRUE(sizes()->target());
    EXPECT_EQ(sizes()->target()->sizes.size(), 3u);
}
