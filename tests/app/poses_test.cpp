// Ways up side by side over the view: asked for by key, laid by key and by pointer, undone, put away.
#include "app/view/pose_cards.h"
#include "window_test.h"

using namespace lp;

namespace {

class Poses : public lp::Window {
  protected:
    /// A stool: a seat of 60 x 40 on a leg of 10 x 10 x 24.
    void open_stool() { open_part("Stool", {block(10, 10, 24), block(60, 40, 4, {{"at_z", 24}})}, Stretch::Bed); }
    PoseCards* cards() { return window->pose_cards(); }
    Vec3 down() { return part("Stool")->pose.down; }
};

} // namespace

TEST_F(Poses, AreComparedLaidUndoneAndPutAway) {
    open_stool();
    EXPECT_TRUE(cards()->isHidden());
    window->view()->setFocus();
    press(Qt::Key_4); // "Compare ways up"
    settle();
    ASSERT_TRUE(cards()->isVisible()) << said.toStdString();
    EXPECT_TRUE(window->view()->rect().contains(cards()->geometry()));
    ASSERT_GE(cards()->cards().size(), 2);
    EXPECT_TRUE(cards()->sentence().contains("no supports")) << cards()->sentence().toStdString();
    QPushButton* first = cards()->cards().front();
    EXPECT_TRUE(first->hasFocus());
    EXPECT_TRUE(first->accessibleDescription().contains("on 24 cm²")) << first->accessibleDescription().toStdString();
    // By the keyboard: the seat lies on the bed.
    press(Qt::Key_Space);
    settle();
    EXPECT_NEAR(down().z(), 1, 1e-9);
    EXPECT_TRUE(first->accessibleName().startsWith("How it lies now"));
    EXPECT_EQ(session->results().analysis()->part(part("Stool")->id)->inspection.overhang_area_mm2, 0);
    // Another by the pointer, and back.
    QTest::mouseClick(cards()->cards()[1], Qt::LeftButton);
    settle();
    EXPECT_LT(down().z(), 0.99);
    undo();
    settle();
    EXPECT_NEAR(down().z(), 1, 1e-9);
    EXPECT_TRUE(first->accessibleName().startsWith("How it lies now"));
    undo();
    EXPECT_NEAR(down().z(), -1, 1e-9);
    // Every card has its picture in time, of the part in its own colour.
    first->setFocus();
    auto shows_part = [&](QPushButton* card) {
        const QImage picture = card->grab().toImage();
        int orange = 0;
        for (int y = 4; y < 70; ++y)
            for (int x = 4; x < picture.width() - 4; ++x) {
                const QColor c = picture.pixelColor(x, y);
                orange += c.red() > c.blue() + 40;
            }
        return orange > 60;
    };
    for (QPushButton* card : cards()->cards())
        EXPECT_TRUE(QTest::qWaitFor([&] { return shows_part(card); })) << card->accessibleName().toStdString();
    press(Qt::Key_Escape);
    EXPECT_TRUE(cards()->isHidden());
    EXPECT_TRUE(window->view()->hasFocus());
}

TEST_F(Poses, GoWhenThePartChangesOrAnotherIsChosen) {
    open_stool();
    say("compare ways up");
    settle();
    ASSERT_TRUE(cards()->isVisible());
    go(Stretch::Shape);
    EXPECT_TRUE(cards()->isHidden());
    go(Stretch::Bed);
    say("compare ways up");
    settle();
    ASSERT_TRUE(cards()->isVisible());
    undo(); // nothing to undo: they stay
    EXPECT_TRUE(cards()->isVisible());
    window->resize(900, 620);
    QApplication::processEvents();
    EXPECT_TRUE(window->view()->rect().contains(cards()->geometry())) << "they keep to the view";
}
