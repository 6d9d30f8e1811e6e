// Drawing by hand: the acts of outlines, through mouse, keys and typed numbers on the real window.
#include "app/outline/outline_editor.h"
#include "project/references.h"
#include "window_test.h"
#include <QLabel>

using namespace lp;
using std::numbers::pi;

namespace {

class Drawing_ : public Window {
  protected:
    OutlineEditor& editor() { return *window->outline(); }
    QWidget* view() { return window->view(); }
    void take(const QString& words) {
        const auto& offers = window->offers()->offers();
        for (size_t i = 0; i < offers.size(); ++i)
            if (offers[i].words == words) {
                if (i < 9) {
                    QTest::keyClick(view(), Qt::Key(Qt::Key_1 + int(i)));
                } else {
                    window->offers()->take(int(i) + 1);
                }
                QApplication::processEvents();
                return;
            }
        QString all;
        for (const Offer& o : offers) all += o.words + ", ";
        ADD_FAILURE() << words.toStdString() << " is not offered: " << all.toStdString();
    }
    void click(double x, double y, Qt::KeyboardModifiers keys = {}) {
        QPoint at = editor().to_view({x, y}).toPoint();
        QTest::mouseMove(view(), at);
        QTest::mouseClick(view(), Qt::LeftButton, keys, at);
        QApplication::processEvents();
    }
    void type_size(const char* text) {
        QTest::keyClick(view(), text[0]);
        ASSERT_NE(editor().box(), nullptr);
        QTest::keyClicks(editor().box(), text + 1);
        QTest::keyClick(editor().box(), Qt::Key_Return);
        settle();
    }
    void new_outline() {
        take("Outline");
        settle();
        ASSERT_TRUE(editor().active());
        ASSERT_NE(editor().shape(), nullptr);
    }
    double made() { return session->results().evaluation()->parts.at(0).mass.volume_mm3; }
    std::string failures() {
        std::string text;
        for (const StepOutcome& s : session->results().evaluation()->parts.at(0).steps)
            if (!s.ok) text += s.says + "\n";
        return text;
    }
    DrawingId constraint(ConstraintKind kind, const std::string& value) {
        for (const Constraint& c : editor().drawing().constraints)
            if (c.kind == kind && c.value == value) return c.id;
        return 0;
    }
};

} // namespace

TEST_F(Drawing_, ARectangleIsTypedWhileDrawnAndRaised) {
    new_outline();
    take("Rectangle");
    click(0, 0);
    QTest::mouseMove(view(), editor().to_view({20, 15}).toPoint());
    type_size("58, 36");
    ASSERT_EQ(editor().drawing().elements.size(), 4u);
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u);
    EXPECT_NEAR(editor().shape()->arrangement.regions[0].area_mm2, 58 * 36, 1e-6);
    EXPECT_EQ(editor().shape()->freedom.total, 0) << "drawn from the origin, sized: all held";
    QTest::keyClick(view(), Qt::Key_Escape); // the tool
    click(20, 20);
    ASSERT_EQ(editor().chosen_regions().size(), 1u);
    take("Extrude");
    settle();
    EXPECT_FALSE(editor().active());
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), 58 * 36 * 10, 1e-6);
    type(1, "height", "27");
    settle();
    EXPECT_NEAR(made(), 58 * 36 * 27, 1e-6);
    // Back into the drawing; its number stands there and is edited there.
    window->sheet()->rows()[0]->field("drawing")->setFocus();
    QTest::mouseClick(window->sheet()->rows()[0]->field("drawing"), Qt::LeftButton);
    settle();
    ASSERT_TRUE(editor().active());
    DrawingId width = constraint(ConstraintKind::Length, "58");
    ASSERT_NE(width, 0u);
    QPoint label = editor().label_rect(*editor().drawing().constraint(width)).center().toPoint();
    QTest::mouseClick(view(), Qt::LeftButton, {}, label);
    ASSERT_NE(editor().box(), nullptr);
    editor().box()->setText("71 mm");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(made(), 71 * 36 * 27, 1e-6);
    undo();
    EXPECT_NEAR(made(), 58 * 36 * 27, 1e-6);
    redo();
    EXPECT_NEAR(made(), 71 * 36 * 27, 1e-6);
}

TEST_F(Drawing_, TheTrayIsDrawnLoweredBoredAndFollowsItsNumbers) {
    new_part();
    set_number("long", "58 mm");
    set_number("wall", "1.6 mm");
    settle();
    new_outline();
    say("rectangle 0 0 58 36");
    say("rectangle 58 0 88 36");
    // Sizes by name: the lower sides, then the first rectangle's height.
    auto size = [&](double x, double y, const char* line) {
        click(x, y);
        ASSERT_EQ(editor().selection().size(), 1u);
        say(line);
    };
    size(29, 0, "length long");
    size(73, 0, "length 30 mm");
    size(0, 18, "length 36 mm");
    EXPECT_EQ(editor().shape()->freedom.total, 0) << "shared corners and named sizes hold it all";
    // Both with their walls.
    click(20, 0);
    say("offset -wall");
    click(70, 0);
    say("offset -wall");
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 4u);
    // Walls up by 27: everything that is filled; then the floors from the same outline.
    QTest::keyClick(view(), Qt::Key_Escape); // lets the selection go
    take("Extrude");
    settle();
    type(1, "height", "27");
    settle();
    StepId outline = session->project()->parts[0]->steps[0].id;
    session->draw_outline(session->workspace().active_part(), outline);
    settle();
    click(25, 18);
    click(74, 18);
    ASSERT_EQ(editor().chosen_regions().size(), 2u);
    take("Extrude");
    settle();
    type(2, "height", "1.2");
    settle();
    EXPECT_EQ(failures(), "");
    auto want = [](double l, double w) {
        double floors = (l - 2 * w) * (36 - 2 * w) + (30 - 2 * w) * (36 - 2 * w);
        return ((l + 30) * 36 - floors) * 27 + floors * 1.2;
    };
    EXPECT_NEAR(made(), want(58, 1.6), 1e-4);
    // An outline on the rim, with the rim's own edges: the right compartment's walls come down by 9.
    Pick rim;
    const Tessellation& t = session->results().evaluation()->parts[0].bodies[0].body.tessellation();
    for (size_t f = 0; f < t.faces.size(); ++f)
        if (t.faces[f].direction.z() > 0.99 && std::fabs(t.faces[f].centre.z() - 27) < 1e-6)
            rim = {Pick::Kind::Face, session->workspace().active_part(), 0, f, {0.8, 18, 27}};
    ASSERT_TRUE(rim);
    session->workspace().select(rim, false);
    QApplication::processEvents();
    take("Outline here");
    settle();
    ASSERT_TRUE(editor().active());
    EXPECT_NEAR(editor().plane().translation().z(), 27, 1e-9);
    take("Take an edge");
    click(73, 0);
    click(88, 10);
    click(73, 36);
    click(73, 1.6);
    click(86.4, 10);
    click(73, 34.4);
    QTest::keyClick(view(), Qt::Key_Escape);
    ASSERT_EQ(editor().drawing().elements.size(), 6u) << said.toStdString();
    for (const Element& e : editor().drawing().elements) EXPECT_FALSE(e.follows.empty());
    // Closed by two short lines from the inner corners to the outer edges.
    say("line 59.6 1.6 59.6 0");
    say("line 59.6 34.4 59.6 36");
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u);
    click(87.2, 18);
    ASSERT_EQ(editor().chosen_regions().size(), 1u) << "the wall between the taken edges";
    double wall_area = editor().shape()->arrangement.regions[editor().chosen_regions()[0]].area_mm2;
    double before = made();
    take("Cut in");
    settle();
    type(4, "height", "9");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), before - wall_area * 9, 1e-4);
    // Two wells in a block raised on the back.
    session->workspace().clear_selection();
    QApplication::processEvents();
    new_outline();
    say("rectangle 10 36 50 54");
    take("Extrude");
    settle();
    type(6, "height", "20");
    settle();
    double with_block = made();
    const Tessellation& u = session->results().evaluation()->parts[0].bodies[0].body.tessellation();
    Pick top;
    for (size_t f = 0; f < u.faces.size(); ++f)
        if (u.faces[f].direction.z() > 0.99 && std::fabs(u.faces[f].centre.z() - 20) < 1e-6)
            top = {Pick::Kind::Face, session->workspace().active_part(), 0, f, {30, 45, 20}};
    ASSERT_TRUE(top);
    session->workspace().select(top, false);
    QApplication::processEvents();
    take("Outline here");
    settle();
    take("Circle");
    click(20, 45);
    QTest::mouseMove(view(), editor().to_view({24, 45}).toPoint());
    type_size("14");
    take("Circle");
    click(40, 45);
    QTest::mouseMove(view(), editor().to_view({43, 45}).toPoint());
    type_size("9");
    QTest::keyClick(view(), Qt::Key_Escape);
    click(20, 45 + 3);
    click(40, 45 + 2);
    ASSERT_EQ(editor().chosen_regions().size(), 2u);
    take("Cut in");
    settle();
    type(8, "height", "18");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(with_block - made(), 18 * pi * (49 + 20.25), 1e-3);
    // Now the numbers change: everything follows, nothing loses its place.
    set_number("long", "71 mm");
    set_number("wall", "2 mm");
    settle();
    EXPECT_EQ(failures(), "");
    const PartResult& part = session->results().evaluation()->parts[0];
    EXPECT_NEAR(part.box.max().x(), 101, 1e-6);
    double lowered_area = 0;
    for (const PlacedOutline& o : part.outlines)
        if (std::fabs(o.plane.translation().z() - 27) < 1e-6)
            for (const FlatRegion& r : o.shape->arrangement.regions)
                if (r.area_mm2 < 500) lowered_area = r.area_mm2;
    double block = 40 * 18 * 20.0;
    EXPECT_NEAR(part.mass.volume_mm3, want(71, 2) - lowered_area * 9 + block - 18 * pi * (49 + 20.25), 1e-3);
    EXPECT_NEAR(lowered_area, 28.0 * 36 - 26.0 * 32, 1e-3)
        << "three walls of the right compartment, beyond the shared one";
}

TEST_F(Drawing_, TheFunnelsWallStaysEvenWhenAControlPointIsPulled) {
    new_part();
    new_outline();
    say("line 6 0 6 20 30 45");
    say("offset -1.6");
    DrawingId wall = 0;
    for (const Element& e : editor().drawing().elements)
        if (e.kind == ElementKind::Offset) wall = e.id;
    ASSERT_NE(wall, 0u);
    QTest::keyClick(view(), Qt::Key_Escape);
    editor().select(wall, false);
    take("Ends open");
    take_from_menu("closed");
    settle();
    type(0, "on", "xz");
    settle();
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u);
    say("revolve");
    EXPECT_EQ(failures(), "");
    double before = made();
    EXPECT_GT(before, 1000);
    // The rim is pulled out by hand.
    session->draw_outline(session->workspace().active_part(), session->project()->parts[0]->steps[0].id);
    settle();
    QPoint from = editor().to_view({30, 45}).toPoint(), to = editor().to_view({40, 45}).toPoint();
    QTest::mousePress(view(), Qt::LeftButton, {}, from);
    for (int k = 1; k <= 5; ++k) {
        QMouseEvent move(QEvent::MouseMove, from + (to - from) * k / 5, view()->mapToGlobal(from + (to - from) * k / 5),
                         Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
        QApplication::sendEvent(view(), &move);
    }
    QTest::mouseRelease(view(), Qt::LeftButton, {}, to);
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_GT(made(), before * 1.2);
    // Even: every point of the outer wall is 1.6 from the inner one.
    const OutlineShape& s = *editor().shape();
    std::vector<Curve> inner;
    for (const SourcedCurve& c : s.curves)
        if (s.owner_of(c.key) != wall) inner.push_back(c.curve);
    size_t checked = 0;
    for (const SourcedCurve& c : s.curves)
        if (s.owner_of(c.key) == wall && c.curve.length() > 5) {
            EXPECT_NEAR(distance_to(inner, c.curve.at(0.5)), 1.6, 1e-6);
            ++checked;
        }
    EXPECT_EQ(checked, 2u);
}

TEST_F(Drawing_, AContradictionIsRefusedAndNamedAndNothingIsLost) {
    new_outline();
    say("rectangle 0 0 40 20");
    click(20, 0);
    say("length 40 mm");
    size_t before = editor().drawing().constraints.size();
    click(20, 20);
    say("length 41 mm");
    EXPECT_TRUE(said_wrong);
    EXPECT_TRUE(said.contains("contradicts") && said.contains("40 mm")) << said.toStdString();
    EXPECT_EQ(editor().drawing().constraints.size(), before);
    for (const char* bad : {"length 0", "length -5", "length 1e12", "length nothing"}) {
        click(0, 10);
        say(bad);
        EXPECT_TRUE(said_wrong) << bad;
        EXPECT_EQ(editor().drawing().constraints.size(), before) << bad;
        QTest::keyClick(view(), Qt::Key_Escape);
        said_wrong = false;
    }
}

TEST_F(Drawing_, CornersAreRoundedLinesTrimmedAndThingsRemovedByKey) {
    new_outline();
    say("rectangle 0 0 40 20");
    click(40, 20);
    take("Fillet");
    ASSERT_NE(editor().box(), nullptr);
    editor().box()->setText("4 mm");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u) << said.toStdString();
    EXPECT_NEAR(editor().shape()->arrangement.regions[0].area_mm2, 800 - (4 - pi) * 4, 1e-6);
    say("line 10 -5 10 25");
    say("trim 10 -3");
    say("trim 10 23");
    EXPECT_EQ(editor().shape()->arrangement.regions.size(), 2u);
    click(10, 10 + 3);
    ASSERT_EQ(editor().selection().size(), 1u);
    QTest::keyClick(view(), Qt::Key_Delete);
    settle();
    EXPECT_EQ(editor().shape()->arrangement.regions.size(), 1u);
    undo();
    EXPECT_EQ(editor().shape()->arrangement.regions.size(), 2u);
}

TEST_F(Drawing_, AWordRunsRoundACircleAndIsSunk) {
    new_part();
    say("cylinder 60 4");
    const Tessellation& t = session->results().evaluation()->parts[0].bodies[0].body.tessellation();
    Pick top;
    for (size_t f = 0; f < t.faces.size(); ++f)
        if (t.faces[f].direction.z() > 0.99)
            top = {Pick::Kind::Face, session->workspace().active_part(), 0, f, {0, 0, 4}};
    session->workspace().select(top, false);
    QApplication::processEvents();
    take("Outline here");
    settle();
    say("circle 0 0 16 0");
    take("Text");
    click(0, -25);
    ASSERT_NE(editor().box(), nullptr);
    editor().box()->setText("PEG 木");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    EXPECT_TRUE(said.contains("木")) << said.toStdString();
    click(0, -25);
    editor().box()->setText("LOOSE PEG");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    DrawingId text = 0, circle = 0;
    for (const Element& e : editor().drawing().elements) (e.kind == ElementKind::Text ? text : circle) = e.id;
    ASSERT_NE(text, 0u);
    editor().select(text, false);
    editor().select(circle, true);
    take("Along the circle");
    settle();
    editor().select(text, false);
    QTest::keyClick(view(), Qt::Key_Escape);
    say("cut in");
    type(2, "height", "0.6");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_LT(made(), pi * 900 * 4 - 20);
    EXPECT_GT(made(), pi * 900 * 3.4);
}

TEST_F(Drawing_, ABoardComesInFromAFileAndSavesAndOpensAgain) {
    new_outline();
    QString file = QString::fromStdString((folder.path / "board.dxf").string());
    std::ofstream(file.toStdString()) << "0\nSECTION\n2\nHEADER\n9\n$"
                                         "INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n0\nLWPOLYLINE\n8\n0\n90"
                                         "\n4\n70\n1\n10\n0\n20\n0\n10\n40\n20\n0\n10\n40\n20\n25\n10\n0\n20\n25\n"
                                         "0\nCIRCLE\n8\n0\n10\n5\n20\n5\n30\n0\n40\n1.5\n0\nENDSEC\n0\nEOF\n";
    editor().bring_in(file);
    settle();
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 2u) << said.toStdString();
    take("Extrude");
    settle();
    EXPECT_NEAR(made(), (1000 - pi * 2.25) * 10, 1e-6);
    QString project = QString::fromStdString((folder.path / "board.loosepeg").string());
    ASSERT_TRUE(window->save_to(project));
    ASSERT_TRUE(session->document().open(project));
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), (1000 - pi * 2.25) * 10, 1e-6);
    std::ofstream(file.toStdString()) << "0\nSECTION\n2\nENTITIES\n0\nLINE\n8";
    session->draw_outline(session->workspace().active_part(), session->project()->parts[0]->steps[0].id);
    settle();
    editor().bring_in(file);
    EXPECT_TRUE(said_wrong && said.contains("cut off")) << said.toStdString();
}

TEST_F(Drawing_, NamedNumbersAreRenamedEverywhereAndKeptWhileInUse) {
    new_part();
    set_number("wide", "40 mm");
    settle();
    new_outline();
    say("rectangle 0 0 40 20");
    click(20, 0);
    say("length wide");
    editor().close();
    QTest::mouseClick(window->sheet()->findChild<QPushButton*>("numbers-table"), Qt::LeftButton);
    ASSERT_TRUE(window->numbers() && QTest::qWaitForWindowActive(window->numbers(), 5000));
    QTableWidget* table = window->numbers()->table();
    ASSERT_EQ(table->rowCount(), 1);
    EXPECT_EQ(table->item(0, 2)->text(), "40 mm");
    EXPECT_TRUE(table->item(0, 6)->text().contains("length of line")) << table->item(0, 5)->text().toStdString();
    type_cell(table, 0, 0, "across");
    settle();
    EXPECT_EQ(uses_of_parameter(*session->project(), "across").size(), 1u);
    type_cell(table, 0, 1, "2 * 35 mm");
    settle();
    EXPECT_EQ(table->item(0, 2)->text(), "70 mm");
    table->setCurrentCell(0, 0);
    window->numbers()->remove();
    EXPECT_TRUE(window->numbers()->says()->text().contains("in use"))
        << window->numbers()->says()->text().toStdString();
    EXPECT_EQ(session->project()->parameters.size(), 1u);
    type_cell(table, 0, 1, "nothing_there");
    EXPECT_FALSE(window->numbers()->says()->text().isEmpty());
    EXPECT_EQ(session->project()->parameters[0].expression, "2 * 35 mm");
}

TEST_F(Drawing_, TheSpoutFollowsAConstantOfItsFormula) {
    new_part();
    set_number("flare", "0.01", "number");
    settle();
    new_outline();
    editor().set_tool(DrawTool::Formula);
    click(0, 0);
    ASSERT_NE(editor().box(), nullptr);
    editor().box()->setText("4 + flare * h^2");
    QTest::keyClick(editor().box(), Qt::Key_Return);
    settle();
    ASSERT_EQ(editor().drawing().elements.size(), 1u) << said.toStdString();
    // Closed by lines; the upper one runs on beyond the curve, so that it still meets it when the curve moves.
    say("line 4 0 0 0 0 20 30 20");
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u);
    type(0, "on", "xz");
    settle();
    say("revolve");
    EXPECT_EQ(failures(), "");
    auto volume = [](double b) { return pi * (16 * 20 + 8 * b * 8000 / 3 + b * b * 3200000 / 5); };
    EXPECT_NEAR(made(), volume(0.01), 1e-3 * volume(0.01));
    set_number("flare", "0.02");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), volume(0.02), 1e-3 * volume(0.02));
    set_number("flare", "0 / 0"); // refused, the last good state stays
    EXPECT_NEAR(made(), volume(0.02), 1e-3 * volume(0.02));
}

TEST_F(Drawing_, AMarkIsClickedAndItsConstraintTakenAway) {
    new_outline();
    say("line 0 0 30 4 12 20");
    click(15, 2);
    take("Horizontal");
    settle();
    auto level = [&] {
        for (const Constraint& c : editor().drawing().constraints)
            if (c.kind == ConstraintKind::Horizontal) return true;
        return false;
    };
    ASSERT_TRUE(level());
    QTest::keyClick(view(), Qt::Key_Escape);
    auto marks = editor().constraint_marks();
    ASSERT_FALSE(marks.empty());
    for (const auto& mark : marks)
        if (editor().drawing().constraint(mark.constraint)->kind == ConstraintKind::Horizontal)
            QTest::mouseClick(view(), Qt::LeftButton, {}, mark.rect.center().toPoint());
    EXPECT_EQ(editor().selection().size(), 1u);
    QTest::keyClick(view(), Qt::Key_Delete);
    settle();
    EXPECT_FALSE(level());
    EXPECT_EQ(editor().drawing().elements.size(), 2u) << "the lines stay";
    undo();
    EXPECT_TRUE(level());
}

TEST_F(Drawing_, WhatIsChosenIsCopiedToAnotherOutlineAndTheSilhouetteFollowsThePart) {
    new_part();
    say("block 40 20");
    new_outline();
    StepId first = editor().step();
    editor().close();
    new_outline();
    say("rectangle 0 0 12 6");
    click(6, 0);
    say("length 12 mm");
    QTest::keyClick(view(), Qt::Key_Escape);
    for (const Element& e : std::vector<Element>(editor().drawing().elements)) editor().select(e.id, true);
    say("copy to step 2");
    EXPECT_FALSE(said_wrong) << said.toStdString();
    auto copied =
        drawing_from_text(session->project()->step(session->workspace().active_part(), first)->fields.at("drawing"));
    ASSERT_TRUE(copied);
    EXPECT_EQ(copied->elements.size(), 4u);
    EXPECT_TRUE(std::any_of(copied->constraints.begin(), copied->constraints.end(),
                            [](const Constraint& c) { return c.value == "12 mm"; }));
    editor().close();
    undo();
    new_outline();
    say("silhouette");
    settle();
    ASSERT_EQ(editor().shape()->arrangement.regions.size(), 1u) << said.toStdString();
    EXPECT_NEAR(editor().shape()->arrangement.regions[0].area_mm2, 800, 1e-3);
    type(0, "size_x", "50");
    settle();
    EXPECT_NEAR(editor().shape()->arrangement.regions[0].area_mm2, 1000, 1e-3);
}

TEST_F(Drawing_, ACircleIsLoftedIntoARoundedRectangle) {
    new_part();
    new_outline();
    say("circle 0 0 15 0");
    editor().close();
    new_outline();
    say("rounded rectangle -12 -8 12 8");
    type(1, "distance", "30");
    settle();
    editor().close();
    say("loft");
    const auto steps = session->project()->parts[0]->steps;
    type(2, "outlines", (to_text(steps[0].id) + "," + to_text(steps[1].id)).c_str());
    settle();
    EXPECT_EQ(failures(), "");
    double low = 24 * 16 * 30 * 0.95, high = pi * 225 * 30; // between its two ends' prisms
    EXPECT_GT(made(), low);
    EXPECT_LT(made(), high);
    EXPECT_EQ(session->results().evaluation()->parts[0].bodies[0].body.pieces(), 1);
    double before = made();
    type(1, "distance", "40");
    settle();
    EXPECT_NEAR(made() / before, 40.0 / 30, 1e-3); // stretched along its axis
}

TEST_F(Drawing_, ABoardBecomesAPocketWiderByAFit) {
    new_part();
    rename("Tray");
    new_part(true);
    rename("Board");
    new_outline();
    say("rectangle 0 0 40 25");
    take("Extrude");
    settle();
    type(1, "height", "1.6");
    settle();
    choose("Tray");
    say("block 50 35 6 20 12.5 -4.9");
    say("cut with a fit");
    type(1, "tool", "Board, stand-in");
    type(1, "fit", "slide");
    settle();
    auto pocket = [&](double gap) { return 50 * 35 * 6 - (40 + 2 * gap) * (25 + 2 * gap) * (1.1 + gap); };
    EXPECT_NEAR(volume("Tray"), pocket(0.25), 0.5);
    type(1, "fit", "loose");
    settle();
    EXPECT_NEAR(volume("Tray"), pocket(0.40), 0.5);
}

TEST_F(Drawing_, ABladeIsSweptWithATwistAndABodyLofted) {
    new_part();
    new_outline();
    say("rectangle -12 -2 12 2");
    editor().close();
    QApplication::processEvents();
    new_outline();
    say("line 0 0 0 60");
    type(1, "on", "xz");
    settle();
    editor().close();
    const auto steps = session->project()->parts[0]->steps;
    say("sweep");
    type(2, "outline", to_text(steps[0].id).c_str());
    type(2, "path", to_text(steps[1].id).c_str());
    type(2, "twist", "35");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), 24 * 4 * 60, 5); // Cavalieri: twisting changes no section
    // The sentence has the twist; another number turns it on.
    type(2, "twist", "60");
    settle();
    EXPECT_EQ(failures(), "");
    EXPECT_NEAR(made(), 24 * 4 * 60, 12);
}
