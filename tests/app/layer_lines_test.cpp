// The layer view: opened by button and line, led by keys and slider, told in words, put away again.
#include "app/strip/layer_lines.h"
#include "window_test.h"
#include <QElapsedTimer>
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
    // A layer with both skins of a fill and the one below: nothing on the interface thread over 50 ms, here a mean of
    // several, with room for a busy machine.
    QTest::mouseClick(lines()->below(), Qt::LeftButton);
    QElapsedTimer clock;
    clock.start();
    for (int i = 0; i < 5; ++i) lines()->canvas()->grab();
    std::printf("[ DRAWING  ] a layer on another took %.1f ms\n", double(clock.elapsed()) / 5);
    QTest::mouseClick(lines()->below(), Qt::LeftButton);
    lines()->canvas()->setFocus();
    auto picture = [&] { return lines()->canvas()->grab().toImage(); };
    const QImage whole = picture();
    QTest::keyClick(lines()->along(), Qt::Key_Home);
    const QImage none = picture();
    EXPECT_NE(none, whole);
    lines()->canvas()->setFocus();
    press(Qt::Key_Right);
    EXPECT_NE(picture(), none) << "one line is laid";
    press(Qt::Key_Left);
    EXPECT_EQ(picture(), none);
    // The layer below, paler.
    QTest::mouseClick(lines()->below(), Qt::LeftButton);
    EXPECT_NE(picture(), none);
    QTest::mouseClick(lines()->below(), Qt::LeftButton);
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

TEST_F(LayerLinesWindow, AnInterfaceIsTypedFilledAndKept) {
    open_part("Table", {block(10, 10, 20), block(40, 10, 3, {{"at_z", 20}})}, Stretch::Bed);
    QPushButton* put = nullptr;
    for (QPushButton* button : window->bed_panel()->findChildren<QPushButton*>())
        if (button->text() == "Put supports in") put = button;
    ASSERT_NE(put, nullptr);
    QTest::mouseClick(put, Qt::LeftButton);
    settle();
    auto field = [&]() -> ValueField* {
        for (ValueField* f : window->bed_panel()->findChildren<ValueField*>())
            if (f->accessibleName().startsWith("Interface, layers")) return f;
        return nullptr;
    };
    ASSERT_NE(field(), nullptr);
    type_into(field(), "2");
    settle();
    EXPECT_EQ(part("Table")->supports.options.interface_layers, 2);
    QString told;
    for (QLabel* label : window->bed_panel()->findChildren<QLabel*>()) told += label->text() + "\n";
    EXPECT_TRUE(told.contains("lie over a closed floor")) << told.toStdString();
    type_into(field(), "-1");
    settle();
    EXPECT_EQ(part("Table")->supports.options.interface_layers, 2);
    press(Qt::Key_Escape);
    undo();
    EXPECT_EQ(part("Table")->supports.options.interface_layers, 0);
    redo();
    const QString file = QString::fromStdString((folder.path / "table.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(part("Table")->supports.options.interface_layers, 2);
}
