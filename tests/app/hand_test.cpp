// What the hand does with steps, tables and lines, by pointer and keys, and where the keys go afterwards.
#include "app/panels/variants_table.h"
#include "window_test.h"
#include <QLabel>

using namespace lp;
using std::numbers::pi;

namespace {

class Hand : public lp::Window {
  protected:
    PartPtr active() { return session->project()->part(session->workspace().active_part()); }
    double made() { return session->results().evaluation()->part(active()->id)->mass.volume_mm3; }
    std::string kinds() {
        std::string all;
        for (const Step& s : active()->steps) all += (all.empty() ? "" : " ") + s.kind + (s.on ? "" : "(off)");
        return all;
    }
    /// The line stays open with the reason said.
    void line_refuses(const char* line, const char* because) {
        auto before = session->project();
        QTest::keyClick(window->view(), Qt::Key_Slash);
        QLineEdit* edit = window->offers()->panel()->line();
        ASSERT_TRUE(edit->isVisible() && edit->hasFocus());
        edit->clear();
        QTest::keyClicks(edit, line);
        QTest::keyClick(edit, Qt::Key_Return);
        settle();
        const QString says = window->offers()->panel()->says();
        EXPECT_TRUE(says.contains(because)) << line << ": " << says.toStdString();
        EXPECT_EQ(session->project(), before) << line;
        EXPECT_TRUE(edit->isVisible()) << line << ": what was typed can be put right";
        QTest::keyClick(edit, Qt::Key_Escape);
        QApplication::processEvents();
    }
};

} // namespace

TEST_F(Hand, EveryEntryOfAStepsMenuDoesItAndIsTakenBack) {
    say("block 40 30 10");
    say("cylinder 8 30 cut");
    say("cylinder 4 20");
    ASSERT_EQ(kinds(), "block cylinder cylinder");
    const double whole = made();
    const double hole = pi * 16 * 10, pin = pi * 4 * 20;
    EXPECT_NEAR(whole, 12000 - hole + pin, 1e-6);
    struct Act {
        size_t row;
        const char *words, *kinds;
        double volume;
    };
    const Act acts[] = {{1, "Switch off", "block cylinder(off) cylinder", 12000 + pi * 4 * 10},
                        {1, "Move down", "block cylinder cylinder", 12000 - hole},
                        {2, "Move up", "block cylinder cylinder", 12000 - hole},
                        {2, "Remove", "block cylinder", 12000 - hole},
                        {0, "Copy below", "block block cylinder cylinder", whole}};
    for (const Act& act : acts) {
        from_step_menu(act.row, act.words);
        settle();
        EXPECT_EQ(kinds(), act.kinds) << act.words;
        if (std::string(act.words).rfind("Move", 0) == 0) { // the pin first, then the hole takes most of it
            EXPECT_NEAR(made(), 12000 - hole, pin) << act.words;
        } else {
            EXPECT_NEAR(made(), act.volume, 1e-6) << act.words;
        }
        undo();
        EXPECT_EQ(kinds(), "block cylinder cylinder") << act.words;
        EXPECT_NEAR(made(), whole, 1e-9) << act.words;
    }
    from_step_menu(0, "Name it");
    answer("base");
    EXPECT_EQ(active()->steps[0].name, "base");
    from_step_menu(0, "Wind back to here");
    settle();
    EXPECT_EQ(session->workspace().wound_back(active()->id), active()->steps[0].id);
    EXPECT_NEAR(session->results().bodies_of(active()->id)->at(0).body.mass().volume_mm3, 12000, 1e-6);
    from_step_menu(0, "Wind forward again");
    settle();
    EXPECT_NEAR(session->results().bodies_of(active()->id)->at(0).body.mass().volume_mm3, whole, 1e-6);
    EXPECT_NE(QApplication::focusWidget(), nullptr) << "the keys still go somewhere";
}

TEST_F(Hand, AStepIsCopiedToAnotherPartByItsMenu) {
    say("block 40 30 10");
    new_part();
    say("cylinder 12 20");
    ASSERT_EQ(session->project()->parts.size(), 2u);
    from_step_menu(0, "Copy to another part");
    ASSERT_TRUE(QTest::qWaitFor([&] { return menu() && menu()->title() == "Copy to another part"; }, 3000));
    take_from_menu(QString::fromStdString(session->project()->parts[0]->name));
    settle();
    ASSERT_EQ(session->project()->parts[0]->steps.size(), 2u);
    EXPECT_EQ(session->project()->parts[0]->steps[1].kind, "cylinder");
    EXPECT_EQ(session->project()->parts[0]->steps[1].fields.at("diameter"), "12");
}

TEST_F(Hand, TheLineTakesNumbersBehindTheirNamesAndChoicesOfTwoWords) {
    // The area of a hexagon is half the root of three times its width across flats squared (closed formula).
    say("prism sides 6 across 12.6 height 7");
    EXPECT_NEAR(made(), std::sqrt(3.0) / 2 * 12.6 * 12.6 * 7, 1e-6);
    say("cylinder height 30 2mm at_z -5 cut"); // the next in order goes behind the named one
    EXPECT_EQ(active()->steps[1].fields.at("height"), "30");
    EXPECT_EQ(active()->steps[1].fields.at("at_z"), "-5");
    EXPECT_EQ(active()->steps[1].fields.at("does"), "cut");
    say("lie on let in");
    EXPECT_EQ(active()->steps[2].fields.at("does"), "let in");
    line_refuses("prism sides", "sides");
    say("undo");
    say("new part");
    say("block 40 40 5 0 0 1");
    say("cut with a fit");
    EXPECT_EQ(active()->steps[1].fields.at("tool"), session->project()->parts[0]->name) << "there is one other only";
}

TEST_F(Hand, TheLineTakesNumbersWithUnitsAndChoicesAndSaysWhatItCannot) {
    say("block 2in 30mm 1/2in");
    EXPECT_NEAR(made(), 50.8 * 30 * 12.7, 1e-6);
    say("cylinder 6 40 cut x");
    EXPECT_EQ(active()->steps[1].fields.at("along"), "x");
    EXPECT_EQ(active()->steps[1].fields.at("does"), "cut");
    line_refuses("cylinder six", "six");
    line_refuses("cylinder 6 40 5 5 5 5 5 5", "too many");
    line_refuses("melt it", "melt it");
    line_refuses("block 2deg", "");
    EXPECT_EQ(kinds(), "block cylinder");
    EXPECT_TRUE(window->view()->hasFocus()) << "the hand is back in the view";
    say("undo");
    EXPECT_EQ(kinds(), "block");
    say("redo");
    EXPECT_EQ(kinds(), "block cylinder");
}

TEST_F(Hand, EnterInAPanelClosesTheFieldAndItsKeysAreTheWindowsAgain) {
    open_demo();
    go(Stretch::Fit);
    settle();
    for (const char* name : {"hole_shrink_mm", "smallest_open_gap_mm", "layer_height_mm", "metal"}) {
        ValueField* field = window->findChild<FitPanel*>()->cards()->field(name);
        ASSERT_NE(field, nullptr) << name;
        auto before = session->project();
        type_into(field, std::string(name) == "metal" ? "12 H8/f7" : "0.17");
        settle();
        field = window->findChild<FitPanel*>()->cards()->field(name);
        EXPECT_FALSE(field->editing()) << name << " opened again";
        if (std::string(name) == "metal") continue;
        EXPECT_NE(session->project(), before) << name;
        undo();
        EXPECT_EQ(session->project(), before) << name << ": undo is not swallowed";
    }
    // What cannot be is refused where it stands, and Escape gives it up.
    ValueField* field = window->findChild<FitPanel*>()->cards()->field("layer_height_mm");
    auto before = session->project();
    for (const char* wrong : {"-1", "99", "thick", "1/0"}) {
        type_into(field, wrong);
        settle();
        EXPECT_TRUE(field->editing()) << wrong;
        EXPECT_EQ(session->project(), before) << wrong;
    }
    QTest::keyClick(field->editor(), Qt::Key_Escape);
    EXPECT_FALSE(field->editing());
}

TEST_F(Hand, WhatIsTypedIntoTheTableIsNotWrittenOverByAResultThatArrives) {
    say("block 30 20 10");
    set_number("deep", "12 mm");
    press(Qt::Key_B, Qt::ControlModifier);
    QTableWidget* table = window->numbers()->table();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window->numbers(), 5000));
    for (int i = 0; i < 200 && (i < 3 || QApplication::activeWindow() != window->numbers()); ++i) QTest::qWait(5);
    QTest::mouseClick(table->viewport(), Qt::LeftButton, {}, table->visualItemRect(table->item(0, 1)).center());
    QTest::keyClick(table, Qt::Key_F2);
    auto* editor = qobject_cast<QLineEdit*>(QApplication::focusWidget());
    ASSERT_NE(editor, nullptr);
    editor->selectAll();
    QTest::keyClicks(editor, "1");
    session->results().make(); // as after any edit, the parts are made and told of
    settle();
    EXPECT_EQ(editor->text(), "1") << "half-typed, and still there";
    QTest::keyClicks(editor, "7 mm");
    QTest::keyClick(editor, Qt::Key_Return);
    settle();
    EXPECT_EQ(session->project()->parameters[0].expression, "17 mm");
    EXPECT_EQ(table->item(0, 2)->text(), "17 mm");
    // Undo works from here too.
    table->setFocus();
    press(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_EQ(session->project()->parameters[0].expression, "12 mm");
    EXPECT_EQ(table->item(0, 1)->text(), "12 mm");
    window->numbers()->close();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
    EXPECT_TRUE(window->view()->hasFocus()) << "and the keys come back to the window";
    press(Qt::Key_2, Qt::AltModifier);
    EXPECT_EQ(session->workspace().stretch(), Stretch::Fit);
}

TEST_F(Hand, AVariantIsKeptUsedAndTakenBackWithoutLeavingItsTable) {
    say("block 30 20 10");
    press(Qt::Key_B, Qt::ControlModifier | Qt::ShiftModifier);
    VariantsTable* variants = window->variants();
    ASSERT_TRUE(variants && QTest::qWaitForWindowActive(variants, 5000));
    QTest::keyClicks(variants->name(), "low");
    QTest::keyClick(variants->name(), Qt::Key_Return);
    settle();
    ASSERT_EQ(active()->variants.size(), 1u);
    variants->table()->setFocus();
    press(Qt::Key_Z, Qt::ControlModifier);
    settle();
    EXPECT_TRUE(active()->variants.empty());
    press(Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
    settle();
    ASSERT_EQ(active()->variants.size(), 1u);
    variants->close();
    ASSERT_TRUE(QTest::qWaitForWindowActive(window.get(), 5000));
    type(0, "size_z", "33");
    settle();
    EXPECT_NEAR(made(), 30 * 20 * 33, 1e-6);
}

TEST_F(Hand, ANumberIsWalkedByArrowsAndItsFormulaIsKept) {
    set_number("deep", "12 mm");
    say("block 30 20 10");
    type(0, "size_z", "deep + 1");
    settle();
    EXPECT_NEAR(made(), 30 * 20 * 13, 1e-6);
    ValueField* field = window->sheet()->rows()[0]->field("size_z");
    field->setFocus();
    QTest::keyClick(field, Qt::Key_Up);
    settle();
    EXPECT_NEAR(made(), 30 * 20 * 14, 1e-6);
    EXPECT_NE(std::string(active()->steps[0].fields.at("size_z").text()).find("deep"), std::string::npos)
        << "still by its name";
    field = window->sheet()->rows()[0]->field("size_z");
    EXPECT_TRUE(field->hasFocus());
    QTest::keyClick(field, Qt::Key_Down, Qt::ControlModifier);
    settle();
    EXPECT_NEAR(made(), 30 * 20 * 4, 1e-6);
    undo();
    undo();
    EXPECT_EQ(active()->steps[0].fields.at("size_z"), "deep + 1");
}

TEST_F(Hand, ChoicesAndPlanesAreTakenFromTheirLists) {
    say("block 30 20 10");
    type(0, "from", "centre");
    settle();
    EXPECT_NEAR(session->results().evaluation()->part(active()->id)->box.min().z(), -5, 1e-9);
    from_step_menu(0, "Show every number of this step");
    type(0, "on", "xz");
    settle();
    EXPECT_EQ(active()->steps[0].fields.at("on"), "xz");
    const Box3 box = session->results().evaluation()->part(active()->id)->box;
    EXPECT_NEAR(box.sizes().y(), 10, 1e-9) << "its height now runs along y";
    EXPECT_NEAR(box.sizes().z(), 20, 1e-9);
    say("cylinder 6 30 new");
    type(1, "does", "cut");
    settle();
    EXPECT_EQ(active()->steps[1].fields.at("does"), "cut");
    undo();
    EXPECT_EQ(active()->steps[1].fields.at("does"), "new");
}

TEST_F(Hand, ThePoseOfAPartIsTypedAndRefusedInPlace) {
    say("block 30 20 10");
    go(Stretch::Bed);
    settle();
    auto height = [&] {
        const PartAnalysis* part = session->results().analysis()->part(active()->id);
        return bounding_box(*part->posed).sizes().z();
    };
    EXPECT_NEAR(height(), 10, 1e-9);
    type_into(window->bed_panel()->turn_field(0), "90");
    settle();
    EXPECT_NEAR(height(), 20, 1e-6);
    type_into(window->bed_panel()->turn_field(1), "90");
    settle();
    EXPECT_NEAR(height(), 30, 1e-6);
    auto before = session->project();
    type_into(window->bed_panel()->turn_field(2), "2 mm");
    settle();
    EXPECT_EQ(session->project(), before);
    QTest::keyClick(window->bed_panel()->turn_field(2)->editor(), Qt::Key_Escape);
    undo();
    undo();
    EXPECT_NEAR(height(), 10, 1e-9);
}
