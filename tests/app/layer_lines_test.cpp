// The layer view: opened by button and line, led by keys and slider, told in words, put away again.
#include "app/strip/layer_lines.h"
#include "drop_file.h"
#include "window_test.h"
#include <QComboBox>
#include <QFile>
#include <QLabel>
#include <QPushButton>
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

TEST_F(LayerLinesWindow, TellWhatTheTimeIsMadeOfAndTheRaft) {
    open_part("Tile", nlohmann::json::array({block(30, 30, 4)}), Stretch::Bed);
    open_lines();
    EXPECT_TRUE(lines()->about().startsWith("All of it ")) << lines()->about().toStdString();
    for (const char* part : {"outer wall", "infill", "hops", "heating"})
        EXPECT_TRUE(lines()->about().contains(part)) << part;
    EXPECT_TRUE(lines()->words().startsWith("Layer 20 of 20,"));
    press(Qt::Key_Escape);
    settle();
    for (ValueField* f : window->bed_panel()->findChildren<ValueField*>())
        if (f->isVisible() && f->accessibleName() == "Raft, layers") {
            type_into(f, "3");
            break;
        }
    settle();
    open_lines();
    EXPECT_TRUE(lines()->words().startsWith("Layer 20 of 20 (23 with the raft)")) << lines()->words().toStdString();
    press(Qt::Key_Home);
    EXPECT_TRUE(lines()->words().startsWith("Raft, layer 1 of 3, 0.00 to 0.20 mm")) << lines()->words().toStdString();
    for (int i = 0; i < 3; ++i) press(Qt::Key_Up);
    EXPECT_TRUE(lines()->words().startsWith("Layer 1 of 20 (4 with the raft), 0.00 to 0.20 mm"))
        << lines()->words().toStdString();
}

TEST_F(LayerLinesWindow, AreWrittenAndAPlanOfAFileIsLookedAtBesideThePart) {
    open_gate();
    open_lines();
    const QString file = QString::fromStdString((folder.path / "gate.gcode").string());
    lines()->write_to(file); // what the file dialog answers
    settle();
    ASSERT_TRUE(QFile::exists(file)) << said.toStdString();
    EXPECT_TRUE(said.contains("no machine can print them")) << said.toStdString();
    press(Qt::Key_Escape);
    settle();
    drop_file(*window.get(), file.toStdString());
    ASSERT_TRUE(QTest::qWaitFor([&] { return lines()->has_lines(); }, 20'000)) << lines()->words().toStdString();
    EXPECT_EQ(QApplication::focusWidget(), lines()->canvas());
    EXPECT_TRUE(lines()->words().startsWith("gate.gcode: layer 65 of 65, 12.80 to 13.00 mm"))
        << lines()->words().toStdString();
    EXPECT_TRUE(lines()->about().startsWith("65 layers, 13 mm high, 44")) << lines()->about().toStdString();
    EXPECT_TRUE(lines()->about().contains("Planned here for Gate: 65 layers, 13 mm high"))
        << lines()->about().toStdString();
    EXPECT_FALSE(lines()->about().contains("sizes differ"));
    EXPECT_FALSE(lines()->write_button()->isVisible()) << "it is a file already";
    for (int i = 0; i < 14; ++i) press(Qt::Key_Down);
    EXPECT_TRUE(lines()->words().contains("layer 51 of 65")) << lines()->words().toStdString();
    EXPECT_TRUE(lines()->words().contains("on nothing, the longest over 24")) << lines()->words().toStdString();
    EXPECT_FALSE(session->workspace().cut_height()) << "the part is not cut where the plan is looked at";
    press(Qt::Key_Escape);
    EXPECT_FALSE(lines()->isVisible());
    // Beside another part it is told; what is no plan is refused in words.
    open_part("Peg", nlohmann::json::array({block(10, 10, 30)}), Stretch::Bed);
    drop_file(*window.get(), file.toStdString());
    ASSERT_TRUE(QTest::qWaitFor([&] { return lines()->has_lines(); }, 20'000));
    EXPECT_TRUE(lines()->about().contains("Their sizes differ")) << lines()->about().toStdString();
    press(Qt::Key_Escape);
    std::ofstream(folder / "notes.gcode") << "water the beans\n";
    drop_file(*window.get(), folder / "notes.gcode");
    ASSERT_TRUE(QTest::qWaitFor(
        [&] { return lines()->words().startsWith("notes.gcode: ") && !lines()->words().endsWith("…"); }, 20'000))
        << lines()->words().toStdString();
    EXPECT_FALSE(lines()->has_lines());
}

TEST_F(LayerLinesWindow, AllOfTheBedIsLaidTogether) {
    const auto file = folder.path / "pegs.json";
    std::ofstream(file) << nlohmann::json{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts", {{{"name", "Peg"}, {"quantity", 3}, {"steps", nlohmann::json::array({block(10, 10, 4)})}}}}};
    ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
    settle();
    go(Stretch::Bed);
    settle();
    open_lines();
    const size_t one = lines()->canvas()->lines()->layers[5].lines.size();
    lines()->whole()->setFocus();
    press(Qt::Key_Down);
    ASSERT_TRUE(QTest::qWaitFor([&] { return lines()->has_lines(); }, 10'000));
    settle();
    EXPECT_TRUE(lines()->about().startsWith("Bed 1. ")) << lines()->about().toStdString();
    EXPECT_EQ(lines()->canvas()->lines()->layers[5].lines.size(), 3 * one);
    EXPECT_FALSE(lines()->stop_button()->isEnabled()) << "a bed stops for none of its parts";
    lines()->canvas()->setFocus();
    press(Qt::Key_Home);
    EXPECT_EQ(lines()->layer(), 0u);
    EXPECT_FALSE(session->workspace().cut_height()) << "the strip is the part's, not the bed's";
    const QString plan = QString::fromStdString((folder.path / "bed.gcode").string());
    lines()->write_to(plan);
    ASSERT_TRUE(QTest::qWaitFor([&] { return said.startsWith("Wrote the lines"); }, 10'000)) << said.toStdString();
    lines()->whole()->setFocus();
    press(Qt::Key_Up);
    ASSERT_TRUE(QTest::qWaitFor([&] { return lines()->has_lines() && !lines()->about().startsWith("Bed"); }, 10'000));
    EXPECT_EQ(lines()->canvas()->lines()->layers[5].lines.size(), one);
}
