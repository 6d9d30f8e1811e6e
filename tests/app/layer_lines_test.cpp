// The layer view: opened by button and line, led by keys and slider, told in words, put away again.
#include "app/strip/layer_lines.h"
#include "window_test.h"
#include <QComboBox>
#include <QLabel>
#include <QSlider>

using namespace lp;

namespace {

class LayerLinesWindow : public Window {
  protected:
    /// A gate whose lintel bridges 24 mm at a height of 10.
    void open_gate() {
        open_part("Gate",
                  {block(10, 10, 10), block(10, 10, 10, {{"at_x", 34}, {"does", "new"}}),
                   block(44, 10, 3, {{"at_x", 17}, {"at_z", 10}})},
                  Stretch::Check);
    }
    LayerLinesView* lines() { return window->layer_lines(); }
    void open_lines() {
        say("lines of the layers");
        ASSERT_TRUE(lines()->isVisible());
        ASSERT_TRUE(lines()->has_lines()) << lines()->words().toStdString();
    }
};

} // namespace

TEST_F(LayerLinesWindow, KeysLeadThroughLayersAndTellWhatLiesOnNothing) {
    open_gate();
    open_lines();
    EXPECT_EQ(QApplication::focusWidget(), lines()->canvas());
    EXPECT_TRUE(lines()->words().startsWith("Layer 65 of 65, 12.80 to 13.00 mm")) << lines()->words().toStdString();
    press(Qt::Key_Home);
    EXPECT_TRUE(lines()->words().startsWith("Layer 1 of 65")) << lines()->words().toStdString();
    EXPECT_FALSE(lines()->words().contains("on nothing"));
    EXPECT_EQ(window->strip()->handle_z(), 0.2) << "the strip is cut where the layer is";
    for (int i = 0; i < 5; ++i) press(Qt::Key_PageUp);
    EXPECT_EQ(lines()->layer(), 50u);
    EXPECT_TRUE(lines()->words().contains("on nothing, the longest over 23.")) << lines()->words().toStdString();
    // The strip leads it too.
    window->strip()->setFocus();
    press(Qt::Key_Down);
    EXPECT_EQ(lines()->layer(), 49u);
    EXPECT_FALSE(lines()->words().contains("on nothing"));
    lines()->canvas()->setFocus();
    press(Qt::Key_Escape);
    EXPECT_FALSE(lines()->isVisible());
    EXPECT_EQ(QApplication::focusWidget(), window->view());
    EXPECT_FALSE(session->workspace().cut_height()) << "the part is whole, as before";
}

TEST_F(LayerLinesWindow, LinesAreLaidOneAfterTheOther) {
    open_gate();
    QTest::mouseClick(window->strip()->lines_button(), Qt::LeftButton);
    settle();
    ASSERT_TRUE(lines()->has_lines());
    const double all = lines()->canvas()->seconds(lines()->layer());
    EXPECT_GT(all, 1);
    EXPECT_EQ(lines()->along()->value(), lines()->along()->maximum());
    lines()->canvas()->setFocus();
    auto picture = [&] {
        EXPECT_TRUE(QTest::qWaitFor([&] { return lines()->canvas()->drawn(); }, 10000));
        return lines()->canvas()->grab().toImage();
    };
    const QImage whole = picture();
    QTest::keyClick(lines()->along(), Qt::Key_Home);
    const QImage none = picture();
    EXPECT_NE(none, whole);
    lines()->canvas()->setFocus();
    press(Qt::Key_Right);
    EXPECT_NE(picture(), none) << "one line is laid";
    press(Qt::Key_Left);
    EXPECT_EQ(picture(), none);
    // Layers below, paler.
    auto below = [&](int key) {
        lines()->below()->setFocus();
        press(Qt::Key(key));
        return picture();
    };
    lines()->below()->setFocus();
    const QImage alone = picture(), on_one = below(Qt::Key_Down), on_ten = below(Qt::Key_Down);
    EXPECT_NE(on_one, alone);
    EXPECT_NE(on_ten, on_one);
    EXPECT_NE(below(Qt::Key_Down), on_ten);
    below(Qt::Key_Home);
    EXPECT_EQ(picture(), alone);
    // Playing ends by itself where all is laid.
    QTest::keyClick(lines()->along(), Qt::Key_End);
    lines()->canvas()->setFocus();
    press(Qt::Key_Space);
    EXPECT_EQ(lines()->play()->text(), "Hold");
    EXPECT_TRUE(QTest::qWaitFor([&] { return lines()->along()->value() > 0; }, 3000));
    press(Qt::Key_Space);
    EXPECT_EQ(lines()->play()->text(), "Play");
    // What is under the pointer.
    const QPointF middle = lines()->canvas()->to_pixel(Vec2(0, 4.8));
    EXPECT_TRUE(lines()->canvas()->words_at(middle).contains("wide"))
        << lines()->canvas()->words_at(middle).toStdString();
    EXPECT_TRUE(lines()->canvas()->words_at({1, 1}).isEmpty());
    QTest::mouseClick(window->strip()->lines_button(), Qt::LeftButton);
    EXPECT_FALSE(lines()->isVisible());
}

TEST_F(LayerLinesWindow, FollowsTheNumbersAndRefusesStandIns) {
    open_gate();
    open_lines();
    press(Qt::Key_End);
    undo(); // nothing to take back: it stays
    EXPECT_TRUE(lines()->isVisible());
    press(Qt::Key_Escape);
    go(Stretch::Shape);
    type(2, "size_z", "5");
    settle();
    open_lines();
    EXPECT_TRUE(lines()->words().contains("of 75")) << lines()->words().toStdString();
    undo();
    EXPECT_TRUE(lines()->words().contains("of 65")) << "planned anew while it is open";
    go(Stretch::Bed);
    settle();
    EXPECT_FALSE(lines()->isVisible()) << "another stretch is another view";
}
