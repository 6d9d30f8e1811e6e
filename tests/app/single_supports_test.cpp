// Single supports by hand: chosen by their dots, taken away, drawn elsewhere, put in; siblings laid alike.
#include "app/view/support_handles.h"
#include "window_test.h"

using namespace lp;

namespace {

class SupportDots : public lp::Window {
  protected:
    /// A stool: a seat of 60 x 40 on a leg of 10 x 10 x 24, with posts, seen from below.
    void open_stool() {
        open_part("Stool", {block(10, 10, 24), block(60, 40, 4, {{"at_z", 24}})}, Stretch::Bed);
        take("Put supports in");
        window->view()->setFocus();
        for (int i = 0; i < 14; ++i) press(Qt::Key_Down);
        settle();
    }
    SupportHandles* dots() { return window->support_dots(); }
    size_t count() { return session->results().analysis()->part(part("Stool")->id)->supports.carried.size(); }
    const std::vector<SupportChange>& changes() { return part("Stool")->supports.changes; }
    /// The dot that stands furthest from the middle of the seat and is in sight.
    size_t outermost() {
        size_t best = 0;
        for (size_t i = 0; i < dots()->target()->places.size(); ++i)
            if (dots()->target()->places[i].head<2>().norm() > dots()->target()->places[best].head<2>().norm())
                best = i;
        return best;
    }
};

} // namespace

TEST_F(SupportDots, OneIsChosenAndTakenAwayByKeyAndByOffer) {
    open_stool();
    ASSERT_TRUE(dots()->target());
    const size_t all = count();
    ASSERT_EQ(dots()->target()->places.size(), all);
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, dots()->dot(outermost()).toPoint());
    QApplication::processEvents();
    ASSERT_TRUE(session->workspace().active_support());
    EXPECT_EQ(window->offers()->description(), "one support");
    press(Qt::Key_Delete);
    settle();
    EXPECT_EQ(count(), all - 1);
    ASSERT_EQ(changes().size(), 1u);
    EXPECT_FALSE(changes()[0].added);
    EXPECT_FALSE(session->workspace().active_support());
    undo();
    EXPECT_EQ(count(), all);
    // By the keyboard alone: the first, the next, away.
    say("choose a support");
    ASSERT_TRUE(session->workspace().active_support());
    const Vec3 first = *session->workspace().active_support();
    take("Next support");
    ASSERT_TRUE(session->workspace().active_support());
    EXPECT_GT((*session->workspace().active_support() - first).norm(), 1);
    take("Take it away");
    EXPECT_EQ(count(), all - 1);
    say("supports as worked out");
    EXPECT_EQ(count(), all);
    EXPECT_TRUE(changes().empty());
}

TEST_F(SupportDots, OneIsDrawnToAnotherPlaceAndEscapeDropsIt) {
    open_stool();
    const size_t which = outermost();
    const Vec3 from = dots()->target()->places[which];
    // Into the middle between four posts that stand four millimetres apart: nearer to one there is no room.
    const Vec3 to = from + Vec3(from.x() > 0 ? -2 : 2, from.y() > 0 ? -2 : 2, 0);
    const QPoint begin = dots()->dot(which).toPoint(),
                 end = window->view()->project(dots()->target()->to_view * to).toPoint();
    auto drag = [&](bool drop) {
        QTest::mousePress(window->view(), Qt::LeftButton, {}, begin);
        QTest::mouseMove(window->view(), (begin + end) / 2);
        QTest::mouseMove(window->view(), end);
        if (drop) press(Qt::Key_Escape);
        QTest::mouseRelease(window->view(), Qt::LeftButton, {}, end);
        settle();
    };
    drag(true);
    EXPECT_TRUE(changes().empty());
    drag(false);
    ASSERT_EQ(changes().size(), 2u);
    EXPECT_FALSE(changes()[0].added);
    EXPECT_LT((changes()[0].at - from).norm(), 1e-6);
    EXPECT_TRUE(changes()[1].added);
    EXPECT_LT((changes()[1].at - to).norm(), 1.0) << "where the pointer let go";
    EXPECT_NEAR(changes()[1].at.z(), 24, 1e-3) << "on the underside"; // rays are of single precision
    ASSERT_TRUE(session->workspace().active_support()) << "the moved one stays in hand";
    undo();
    EXPECT_TRUE(changes().empty());
    EXPECT_FALSE(session->workspace().active_support()) << "it is not there any more";
}

TEST_F(SupportDots, OneIsPutInUnderThePickedPlace) {
    open_stool();
    take("Take supports away");
    EXPECT_FALSE(dots()->target()) << "no dots without supports";
    const Transform place = window->view()->scene().bodies.front().place;
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, window->view()->project(place * Vec3(17, 12, 24)).toPoint());
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    take("Support here");
    EXPECT_TRUE(part("Stool")->supports.on);
    ASSERT_EQ(changes().size(), 1u);
    EXPECT_TRUE(changes()[0].added);
}

TEST_F(SupportDots, SiblingsAreLaidAlikeOrTheReasonIsSaid) {
    open_stool();
    say("lay siblings alike");
    EXPECT_TRUE(said_wrong);
    EXPECT_TRUE(said.contains("same shape")) << said.toStdString();
    window->shelf()->setFocus();
    press(Qt::Key_D, Qt::ControlModifier); // doubled
    settle();
    ASSERT_EQ(session->project()->parts.size(), 2u);
    say("turn over");
    say("lay siblings alike");
    EXPECT_EQ(session->project()->parts[0]->pose.down, session->project()->parts[1]->pose.down);
}
