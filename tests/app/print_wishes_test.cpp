// Raft, brim, plastic and load of a part, set on the bed by pointer and keys, and what counts when ways up are
// compared.
#include "app/strip/layer_lines.h"
#include "app/view/pose_cards.h"
#include "project/card_store.h"
#include "window_test.h"
#include <QRadioButton>
#include <QScrollArea>
#include <QScrollBar>
#include <numbers>

using namespace lp;

namespace {

class PrintWishes : public lp::Window {
  protected:
    void open_block(double x, double y, double z) {
        open_part("Peg board", nlohmann::json::array({block(x, y, z)}), Stretch::Bed);
    }
    const SupportOptions& options() { return part("Peg board")->supports.options; }
    ValueField* number(QWidget* within, const char* name) {
        for (ValueField* f : within->findChildren<ValueField*>())
            if (f->isVisible() && f->accessibleName() == name) return f;
        return nullptr;
    }
    void type_number(const char* name, const char* text) {
        type_into(number(window->bed_panel(), name), text);
        settle();
    }
    QString words() {
        QStringList all;
        for (QLabel* label : window->bed_panel()->findChildren<QLabel*>())
            if (label->isVisible()) all << label->text();
        return all.join("\n");
    }
    QPushButton* button(QWidget* within, const QString& start) {
        for (QPushButton* b : within->findChildren<QPushButton*>())
            if (b->isVisible() && b->text().startsWith(start)) return b;
        return nullptr;
    }
    /// How high the lowest place of the part itself is drawn.
    double lowest_shown() {
        double low = 1e9;
        for (const SceneBody& body : window->view()->scene().bodies)
            if (!body.support)
                for (const Vec3& v : body.shape->mesh.vertices) low = std::min(low, (body.place * v).z());
        return low;
    }
    size_t supports_shown() {
        const auto& bodies = window->view()->scene().bodies;
        return size_t(std::count_if(bodies.begin(), bodies.end(), [](const SceneBody& b) { return b.support; }));
    }
    PoseCards* cards() { return window->pose_cards(); }
};

} // namespace

TEST_F(PrintWishes, ARaftIsTypedLiftsThePartAndIsUndone) {
    open_block(40, 20, 8);
    EXPECT_NEAR(lowest_shown(), 0, 1e-9);
    type_number("Raft, layers", "3");
    EXPECT_EQ(options().raft_layers, 3);
    EXPECT_EQ(supports_shown(), 1u);
    EXPECT_NEAR(lowest_shown(), 0.8, 1e-6) << "three layers and the air over them";
    EXPECT_TRUE(words().contains("The raft takes ")) << words().toStdString();
    EXPECT_EQ(number(window->bed_panel(), "Brim"), nullptr) << "a raft takes its place";
    undo();
    EXPECT_NEAR(lowest_shown(), 0, 1e-9);
    redo();
    EXPECT_NEAR(lowest_shown(), 0.8, 1e-6);
    // What makes no sense is refused where it was typed, and nothing is lost.
    for (const char* wrong : {"-2", "400", "tall"}) {
        ValueField* field = number(window->bed_panel(), "Raft, layers");
        type_into(field, wrong);
        EXPECT_EQ(options().raft_layers, 3) << wrong;
        if (field->editing()) QTest::keyClick(field->editor(), Qt::Key_Escape);
    }
    // Kept in the file.
    const QString file = QString::fromStdString((folder.path / "raft.loosepeg").string());
    ASSERT_TRUE(session->document().save(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(options().raft_layers, 3);
}

TEST_F(PrintWishes, ABrimGoesToTheCornersByItsButtonAndByKeys) {
    open_block(40, 20, 8);
    type_number("Brim", "5");
    auto choice = [&](const char* name) -> QRadioButton* {
        for (QRadioButton* b : window->bed_panel()->findChildren<QRadioButton*>())
            if (b->isVisible() && b->text() == name) return b;
        return nullptr;
    };
    ASSERT_NE(choice("Round it"), nullptr);
    EXPECT_TRUE(choice("Round it")->isChecked());
    QTest::mouseClick(choice("At corners"), Qt::LeftButton, {}, QPoint(8, 8));
    settle();
    EXPECT_EQ(options().brim_place, BrimPlace::Corners);
    EXPECT_TRUE(choice("At corners")->isChecked());
    EXPECT_EQ(supports_shown(), 1u);
    choice("In holes")->setFocus();
    press(Qt::Key_Space);
    settle();
    EXPECT_EQ(options().brim_place, BrimPlace::Inside);
    EXPECT_TRUE(words().contains("no holes on the bed")) << words().toStdString();
    type_number("Brim stands off by", "0.1");
    EXPECT_EQ(options().brim_gap_mm, 0.1);
    undo();
    undo();
    EXPECT_EQ(options().brim_place, BrimPlace::Corners);
}

TEST_F(PrintWishes, APartTakesAKeptPlasticOfItsOwn) {
    MaterialCard nylon;
    nylon.name = "Nylon";
    nylon.density_g_cm3 = 1.12;
    ASSERT_FALSE(CardStore().keep(nylon));
    open_block(40, 20, 8);
    EXPECT_TRUE(words().contains("Printed of PLA, as the project"));
    const double before = session->results().analysis()->mass_g;
    QPushButton* choose = button(window->bed_panel(), "Material");
    ASSERT_NE(choose, nullptr);
    QTimer::singleShot(0, [this] { take_from_menu("Nylon"); });
    QTest::mouseClick(choose, Qt::LeftButton);
    settle();
    ASSERT_TRUE(part("Peg board")->material);
    EXPECT_TRUE(words().contains("Printed of Nylon")) << words().toStdString();
    EXPECT_NEAR(session->results().analysis()->mass_g / before, 1.12 / 1.24, 1e-6);
    undo();
    EXPECT_FALSE(part("Peg board")->material);
}

TEST_F(PrintWishes, ALoadIsToldByAFaceShownAndChangesTheOrder) {
    open_block(14, 14, 60);
    QTest::mouseClick(window->view(), Qt::LeftButton, {},
                      window->view()->project(window->view()->scene().bodies[0].place * Vec3(0, 0, 60)).toPoint());
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    take("Pulled this way");
    ASSERT_TRUE(part("Peg board")->load);
    EXPECT_NEAR(part("Peg board")->load->z(), 1, 1e-9);
    EXPECT_TRUE(words().contains("Pulled along z of the design")) << words().toStdString();
    const auto marks = build_marks(*session);
    EXPECT_TRUE(std::any_of(marks.begin(), marks.end(), [](const ViewMark& m) { return m.title == "pulled" && m.to; }));
    say("compare ways up");
    ASSERT_TRUE(cards()->isVisible());
    EXPECT_NEAR(std::fabs(cards()->choices().front().pose.up.z()), 0, 1e-6);
    EXPECT_TRUE(cards()->cards().front()->accessibleDescription().contains("0 % load across"));
    EXPECT_TRUE(cards()->sentence().contains("load runs along the layers")) << cards()->sentence().toStdString();
    // What counts is unfolded; the load counts nothing, a small foot does not matter, and height costs little.
    QPushButton* counts = button(cards(), "What counts");
    ASSERT_NE(counts, nullptr);
    QTest::mouseClick(counts, Qt::LeftButton);
    QApplication::processEvents();
    EXPECT_TRUE(window->view()->rect().contains(cards()->geometry())) << "with its numbers";
    const double score = cards()->choices().front().pose.score;
    type_into(number(cards(), "Height, a cm"), "40");
    settle();
    EXPECT_EQ(session->project()->pose_weights.height_cm, 40);
    ASSERT_TRUE(cards()->isVisible());
    EXPECT_GT(cards()->choices().front().pose.score, score);
    ASSERT_NE(number(cards(), "Height, a cm"), nullptr) << "the numbers are still there";
    undo();
    EXPECT_NE(session->project()->pose_weights.height_cm, 40);
    QTest::mouseClick(button(cards(), "What counts"), Qt::LeftButton);
    QApplication::processEvents();
    EXPECT_EQ(number(cards(), "Height, a cm"), nullptr);
    press(Qt::Key_Escape);
    QTest::mouseClick(button(window->bed_panel(), "Forget"), Qt::LeftButton);
    settle();
    EXPECT_FALSE(part("Peg board")->load);
}

TEST_F(PrintWishes, TheColumnStaysWhereItWasScrolledWhenItIsFilledAnew) {
    open_part("Stool", {block(10, 10, 24), block(60, 40, 4, {{"at_z", 24}})}, Stretch::Bed);
    QScrollArea* area = nullptr;
    for (QWidget* w = window->bed_panel(); w && !area; w = w->parentWidget()) area = qobject_cast<QScrollArea*>(w);
    ASSERT_NE(area, nullptr);
    QScrollBar* bar = area->verticalScrollBar();
    ASSERT_GT(bar->maximum(), 100) << "there is something to scroll";
    const QPointF middle = QRectF(bar->rect()).center();
    QWheelEvent wheel(middle, bar->mapToGlobal(middle), {}, {0, -600}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                      false);
    QApplication::sendEvent(bar, &wheel);
    const int before = bar->value();
    ASSERT_GT(before, 20);
    QPushButton* put = button(window->bed_panel(), "Put supports in");
    QTest::mouseClick(put, Qt::LeftButton);
    settle();
    QTest::qWait(30);
    EXPECT_EQ(bar->value(), before);
    QPushButton* away = button(window->bed_panel(), "Take supports away");
    ASSERT_NE(away, nullptr);
    EXPECT_TRUE(away->hasFocus()) << "it can be taken back by the same key";
    press(Qt::Key_Space);
    settle();
    EXPECT_NE(button(window->bed_panel(), "Put supports in"), nullptr);
}

TEST_F(PrintWishes, ABossIsPrintedSolidByItsFace) {
    using nlohmann::json;
    open_part("Peg board",
              json::array({block(60, 40, 6), json{{"kind", "cylinder"},
                                                  {"name", "boss"},
                                                  {"fields", {{"diameter", 16}, {"height", 20}, {"at_z", 6}}}}}),
              Stretch::Shape);
    settle();
    auto grams = [&] { return session->results().analysis()->mass_g; };
    const double before = grams();
    const SceneBody& body = window->view()->scene().bodies.at(0);
    QTest::mouseClick(window->view(), Qt::LeftButton, {},
                      window->view()->project(body.place * Vec3(0, 0, 26)).toPoint());
    settle();
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    say("print solid");
    ASSERT_EQ(part("Peg board")->steps.size(), 3u) << said.toStdString();
    EXPECT_EQ(part("Peg board")->steps[2].fields.at("what").text(), "boss");
    // A cylinder of 16 less three walls, from the plate's bottom skin to the boss's top skin, 85 % of it empty before.
    const double inner = std::numbers::pi * 6.65 * 6.65 * (26 - 1.6 - 0.0);
    EXPECT_GT(grams() - before, 0.5 * inner * 0.85 / 1000 * 1.24);
    EXPECT_LT(grams() - before, inner * 0.85 / 1000 * 1.24 * 1.02);
    undo();
    EXPECT_NEAR(grams(), before, 1e-9);
    redo();
    EXPECT_GT(grams(), before + 0.5);
}

TEST_F(PrintWishes, StopsAreTypedTakenFromALayerAndForgotten) {
    open_block(20, 20, 12);
    type_number("Stops by hand", "7.1, white from here");
    ASSERT_EQ(part("Peg board")->stops.size(), 1u);
    EXPECT_TRUE(words().contains("white from here: stops after layer 36, at 7.2 mm")) << words().toStdString();
    // With a raft of five the count is five more, the height above the part's foot stays (41 - 5 = 36).
    type_number("Raft, layers", "5");
    EXPECT_TRUE(words().contains("white from here: stops after layer 41, at 7.2 mm")) << words().toStdString();
    // Refused where it was typed: no height, a height below the foot, nothing.
    for (const char* wrong : {"soon", "-3, red", "0", ", red"}) {
        ValueField* field = number(window->bed_panel(), "Stops by hand");
        type_into(field, wrong);
        EXPECT_EQ(part("Peg board")->stops.size(), 1u) << wrong;
        if (field->editing()) QTest::keyClick(field->editor(), Qt::Key_Escape);
    }
    // Above the part it is told, not lost.
    type_number("Stops by hand", "40, red");
    EXPECT_TRUE(words().contains("red: no layer is left at 40 mm")) << words().toStdString();
    undo();
    ASSERT_EQ(part("Peg board")->stops.size(), 1u);
    // From the layer that is looked at.
    say("lines of the layers");
    auto* lines = window->layer_lines();
    ASSERT_TRUE(lines->has_lines());
    press(Qt::Key_Down);
    press(Qt::Key_Down);
    QTest::mouseClick(lines->stop_button(), Qt::LeftButton);
    settle();
    ASSERT_EQ(part("Peg board")->stops.size(), 2u);
    EXPECT_EQ(part("Peg board")->stops[1].at, "11.4 mm") << "before layer 58 of 60";
    QTest::mouseClick(button(lines, "Done"), Qt::LeftButton);
    settle();
    // Kept in the file, and forgotten.
    const QString file = QString::fromStdString((folder.path / "stops.loosepeg").string());
    ASSERT_TRUE(window->save_to(file));
    ASSERT_TRUE(session->document().open(file));
    settle();
    go(Stretch::Bed);
    settle();
    ASSERT_EQ(part("Peg board")->stops.size(), 2u);
    for (QPushButton* b : window->bed_panel()->findChildren<QPushButton*>())
        if (b->isVisible() && b->accessibleName() == "Forget stop 2 of the print") {
            QTest::mouseClick(b, Qt::LeftButton);
            break;
        }
    settle();
    ASSERT_EQ(part("Peg board")->stops.size(), 1u);
    EXPECT_EQ(part("Peg board")->stops[0].why, "white from here");
}

TEST_F(PrintWishes, AStopIsChangedInPlaceAndLayersOfOtherHeightsAreTyped) {
    open_block(20, 20, 12);
    type_number("Stops by hand", "7.2 mm, red from here");
    ASSERT_EQ(part("Peg board")->stops.size(), 1u);
    auto press_named = [&](const char* name) {
        for (QPushButton* b : window->bed_panel()->findChildren<QPushButton*>())
            if (b->isVisible() && b->accessibleName() == name) return QTest::mouseClick(b, Qt::LeftButton);
        ADD_FAILURE() << "no button " << name;
    };
    press_named("Change stop 1 of the print");
    ValueField* field = number(window->bed_panel(), "Stops by hand");
    ASSERT_TRUE(field->editing());
    EXPECT_EQ(field->editor()->text(), "7.2 mm, red from here") << "as it was typed";
    field->editor()->selectAll();
    QTest::keyClicks(field->editor(), "7.2 mm, white from here");
    QTest::keyClick(field->editor(), Qt::Key_Return);
    settle();
    ASSERT_EQ(part("Peg board")->stops.size(), 1u) << "it took the other's place";
    EXPECT_EQ(part("Peg board")->stops[0].why, "white from here");
    undo();
    EXPECT_EQ(part("Peg board")->stops[0].why, "red from here");
    // Bands: twenty layers of 0.1 in place of ten, and the stop is ten layers later at the same height.
    EXPECT_TRUE(words().contains("stops after layer 36, at 7.2 mm")) << words().toStdString();
    type_number("Finer or thicker layers", "2 to 4 by 0.1");
    ASSERT_EQ(part("Peg board")->bands.size(), 1u);
    EXPECT_TRUE(words().contains("Prints layers of 0.1 mm from 2 mm to 4 mm")) << words().toStdString();
    EXPECT_TRUE(words().contains("stops after layer 46, at 7.2 mm")) << words().toStdString();
    EXPECT_EQ(session->results().analysis()->parts[0]->plan->layers.size(), 70u);
    for (const char* wrong : {"2 to 4", "5 to 3 by 0.1", "3 to 6 by 0.1", "8 to 9 by 0"}) {
        ValueField* bands = number(window->bed_panel(), "Finer or thicker layers");
        type_into(bands, wrong);
        EXPECT_EQ(part("Peg board")->bands.size(), 1u) << wrong;
        if (bands->editing()) QTest::keyClick(bands->editor(), Qt::Key_Escape);
    }
    press_named("Forget layers of another height 1");
    settle();
    EXPECT_TRUE(part("Peg board")->bands.empty());
    undo();
    EXPECT_EQ(part("Peg board")->bands.size(), 1u);
}
