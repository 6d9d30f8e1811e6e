// By hand on the window: handles, kept measurements, variants, the sheet's order by mouse, places in the assembly.
#include "app/panels/fit_panel.h"
#include "app/panels/variants_table.h"
#include "app/view/move_handles.h"
#include "window_test.h"
#include <QShortcut>

using namespace lp;

namespace {

class Following : public lp::Window {
  protected:
    void choose_body(PartId part, size_t body = 0) {
        Pick pick;
        pick.kind = Pick::Kind::Body;
        pick.part = part;
        pick.body = body;
        session->workspace().select(pick, false);
        settle();
    }
    Pick face(PartId part, const Vec3& way) {
        const auto& bodies = *session->results().bodies_of(part);
        for (size_t b = 0; b < bodies.size(); ++b) {
            const auto& faces = bodies[b].body.tessellation().faces;
            for (size_t f = 0; f < faces.size(); ++f)
                if (faces[f].kind == SurfaceKind::Plane && faces[f].direction.dot(way) > 0.99)
                    return {Pick::Kind::Face, part, b, f, faces[f].centre};
        }
        return {};
    }
    Box3 box() { return session->results().evaluation()->parts[0].box; }
    void drag(const QPointF& from, const QPointF& to) {
        QTest::mousePress(window->view(), Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 5; ++i) {
            QPointF at = from + (to - from) * i / 5.0;
            QTest::mouseMove(window->view(), at.toPoint());
            QMouseEvent move(QEvent::MouseMove, at, window->view()->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(window->view(), &move);
        }
        QTest::mouseRelease(window->view(), Qt::LeftButton, {}, to.toPoint());
        settle();
    }
};

} // namespace

TEST_F(Following, ABodyIsDraggedByAHandleTypedSnappedAndUndone) {
    say("block 20 20 10");
    choose_body(session->workspace().active_part());
    window->view()->fit_all();
    QApplication::processEvents();
    MoveHandles& handles = *window->handles();
    ASSERT_TRUE(handles.target());
    QPointF grip = handles.grip(0, false), along = grip - window->view()->project(box().center());
    drag(grip, grip + along);
    double moved = box().center().x();
    EXPECT_GT(moved, 1) << "it went the way it was pulled";
    EXPECT_NEAR(box().center().y(), 0, 1e-9) << "and no other";
    EXPECT_EQ(session->project()->parts[0]->steps.back().kind, "move");
    undo();
    EXPECT_NEAR(box().center().x(), 0, 1e-9);
    // A click on the handle waits for a number; arithmetic and units are taken.
    choose_body(session->workspace().active_part());
    grip = handles.grip(2, false);
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, grip.toPoint());
    ASSERT_TRUE(handles.busy());
    QTest::keyClicks(window->view(), "2*3.5");
    EXPECT_TRUE(handles.words().contains("2*3.5")) << handles.words().toStdString();
    QTest::keyClick(window->view(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(box().min().z(), 7, 1e-9);
    // Escape leaves everything as it was.
    choose_body(session->workspace().active_part());
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, handles.grip(1, false).toPoint());
    QTest::keyClicks(window->view(), "50");
    QTest::keyClick(window->view(), Qt::Key_Escape);
    settle();
    EXPECT_FALSE(handles.busy());
    EXPECT_NEAR(box().center().y(), 0, 1e-9);
    // A turn about z by a typed angle.
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, handles.grip(2, true).toPoint());
    ASSERT_TRUE(handles.busy());
    QTest::keyClicks(window->view(), "45");
    QTest::keyClick(window->view(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(box().sizes().x(), 20 * std::sqrt(2.0), 1e-6);
}

TEST_F(Following, ADragSnapsToAnotherBodysFace) {
    say("block 20 20 10");
    say("block 8 8 8 new");
    PartId part = session->workspace().active_part();
    type(1, "at_x", "31.37");
    settle();
    window->view()->fit_all();
    choose_body(part, 1);
    MoveHandles& handles = *window->handles();
    ASSERT_TRUE(handles.target() && handles.target()->body == std::optional<size_t>(1));
    // Pulled to within a pixel or two of lying side by side: 31.37 - 4 - 10 is 17.37 away.
    QPointF grip = handles.grip(0, false);
    QPointF px = (window->view()->project(Vec3(1, 0, 4)) - window->view()->project(Vec3(0, 0, 4)));
    drag(grip, grip - px * (17.37 + 0.2));
    const Body& moved = (*session->results().bodies_of(part))[1].body;
    EXPECT_NEAR(moved.box().min().x(), 10, 1e-6) << "side to side exactly";
}

TEST_F(Following, AKeptMeasurementFollowsAndIsDropped) {
    say("block 30 20 10");
    PartId part = session->workspace().active_part();
    session->workspace().select(face(part, Vec3::UnitX()), false);
    session->workspace().select(face(part, -Vec3::UnitX()), true);
    settle();
    EXPECT_TRUE(window->offers()->description().contains("30.00 mm apart"))
        << window->offers()->description().toStdString();
    take("Keep it measured");
    ASSERT_EQ(session->project()->measures.size(), 1u);
    session->workspace().clear_selection();
    type(0, "size_x", "42.5");
    settle();
    auto marks = build_marks(*session);
    ASSERT_EQ(marks.size(), 1u);
    EXPECT_EQ(marks[0].title, "42.50 mm");
    // One face alone tells how thick the wall behind it is.
    session->workspace().select(face(part, Vec3::UnitZ()), false);
    settle();
    EXPECT_TRUE(window->offers()->description().contains("wall 10.00 mm"))
        << window->offers()->description().toStdString();
    window->ledger()->set_open(true);
    auto* table = window->ledger()->findChild<QTableWidget*>();
    int row = -1;
    for (int r = 0; r < table->rowCount(); ++r)
        if (table->item(r, 2)->text() == "42.50 mm") row = r;
    ASSERT_GE(row, 0);
    table->setCurrentCell(row, 0);
    table->setFocus();
    QTest::keyClick(table, Qt::Key_Delete);
    settle();
    EXPECT_TRUE(session->project()->measures.empty());
    undo();
    EXPECT_EQ(session->project()->measures.size(), 1u);
}

TEST_F(Following, VariantsAreComparedSideBySide) {
    say("block 30 20 10");
    window->show_variants();
    VariantsTable& variants = *window->variants();
    QTest::keyClicks(variants.name(), "flat");
    QTest::keyClick(variants.name(), Qt::Key_Return);
    settle();
    type(0, "size_z", "25");
    settle();
    QTest::keyClicks(variants.name(), "high");
    variants.keep();
    settle();
    ASSERT_EQ(variants.table()->rowCount(), 3);
    EXPECT_EQ(variants.table()->item(0, 1)->text(), "15.00 cm³");
    EXPECT_EQ(variants.table()->item(1, 1)->text(), "6.00 cm³");
    EXPECT_EQ(variants.table()->item(1, 2)->text(), "30.0 x 20.0 x 10.0 mm");
    EXPECT_NE(variants.table()->item(1, 3)->text(), "–") << "a time";
    EXPECT_TRUE(variants.table()->item(1, 5)->text().contains("size z 10")) << "what differs, by step and name";
    variants.table()->setCurrentCell(1, 0);
    variants.use();
    settle();
    EXPECT_NEAR(box().sizes().z(), 10, 1e-9);
    undo();
    EXPECT_NEAR(box().sizes().z(), 25, 1e-9);
    variants.close();
}

TEST_F(Following, AStepIsDraggedUpTheSheetOrToldWhyNot) {
    say("block 30 20 10");
    say("cylinder 6 20 cut");
    say("fillet");
    PartId part = session->workspace().active_part();
    type(2, "edges", "upright");
    settle();
    auto order = [&] {
        std::string kinds;
        for (const Step& s : session->project()->part(part)->steps) kinds += s.kind + " ";
        return kinds;
    };
    ASSERT_EQ(order(), "block cylinder fillet ");
    auto drag_row = [&](size_t from, size_t to) {
        StepRow *row = window->sheet()->rows().at(from), *goal = window->sheet()->rows().at(to);
        QPoint press(20, 12),
            end = row->mapFromGlobal(goal->mapToGlobal(QPoint(20, from > to ? 2 : goal->height() - 2)));
        QTest::mousePress(row, Qt::LeftButton, {}, press);
        for (int i = 1; i <= 4; ++i) {
            QPointF at = QPointF(press) + QPointF(end - press) * i / 4.0;
            QMouseEvent move(QEvent::MouseMove, at, row->mapToGlobal(at), Qt::NoButton, Qt::LeftButton, {});
            QApplication::sendEvent(row, &move);
        }
        QTest::mouseRelease(row, Qt::LeftButton, {}, end);
        settle();
    };
    drag_row(2, 1);
    EXPECT_EQ(order(), "block fillet cylinder ");
    undo();
    drag_row(1, 2);
    EXPECT_EQ(order(), "block fillet cylinder ");
    // What a step stands on cannot go below it.
    from_step_menu(0, "Name it");
    answer("base");
    type(1, "edges", "of top of base");
    settle();
    drag_row(0, 2);
    EXPECT_EQ(order(), "block fillet cylinder ");
    EXPECT_TRUE(said_wrong) << said.toStdString();
}

TEST_F(Following, APartMovedInTheAssemblyPinchesTheRingOrTakesItsCutAlong) {
    open_demo();
    go(Stretch::Fit);
    ASSERT_FALSE(session->results().analysis()->contacts.empty());
    const ContactResult c = session->results().analysis()->contacts.front();
    ASSERT_TRUE(c.step);
    choose(session->project()->part(c.part_a)->name.c_str());
    settle();
    // Moved by keys in this stretch: where it stands changes, not its sheet.
    size_t steps = session->project()->part(c.part_a)->steps.size();
    Vec3 before = session->results().place_of(c.part_a).translation();
    Pick pick;
    pick.kind = Pick::Kind::Body;
    pick.part = c.part_a;
    session->workspace().select(pick, false);
    settle();
    window->view()->setFocus();
    QTest::keyClick(window->view(), Qt::Key_PageUp, Qt::AltModifier | Qt::ShiftModifier);
    settle();
    EXPECT_EQ(session->project()->part(c.part_a)->steps.size(), steps);
    EXPECT_NEAR((session->results().place_of(c.part_a).translation() - before).norm(), 0.1, 1e-9);
    EXPECT_EQ(contact(c.a.c_str(), c.b.c_str()).state, c.state) << "the cut goes along";
    undo();
    // Typed in the panel; nonsense is refused.
    unfold("fold-place");
    ValueField* field = window->fit_panel()->place_field("at_z");
    ASSERT_NE(field, nullptr);
    QTest::mouseClick(field, Qt::LeftButton, {}, field->rect().center());
    ASSERT_TRUE(field->editing());
    field->editor()->selectAll();
    QTest::keyClicks(field->editor(), "3 + ");
    QTest::keyClick(field->editor(), Qt::Key_Return);
    settle();
    EXPECT_TRUE(session->project()->part(c.part_a)->place.is_home());
    field->editor()->selectAll();
    QTest::keyClicks(field->editor(), "3 + 4");
    QTest::keyClick(field->editor(), Qt::Key_Return);
    settle();
    EXPECT_NEAR(session->results().place_of(c.part_a).translation().z(), 7, 1e-9);
}
