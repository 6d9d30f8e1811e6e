// Faces marked on the bed by pointer and keys, seen in the view and the panel; the map of walls in Check.
#include "app/mark_faces.h"
#include "app/view/map_legend.h"
#include "app/view/pose_cards.h"
#include "dialog_answer.h"
#include "window_test.h"
#include <QAbstractItemView>
#include <QComboBox>
#include <QFile>
#include <QRadioButton>
#include <QTimer>

using namespace lp;

namespace {

class FaceMarking : public lp::Window {
  protected:
    /// A stool: a seat of 60 x 40 on a leg of 10 x 10 x 24.
    void open_stool() { open_part("Stool", {block(10, 10, 24), block(60, 40, 4, {{"at_z", 24}})}, Stretch::Bed); }
    const std::vector<MarkedFace>& marks() { return part("Stool")->marks; }
    /// Clicks the face that looks this way, where the view shows it.
    void click_face(const char* name, const Vec3& normal, Qt::KeyboardModifiers with = {}) {
        const PartResult* made = session->results().evaluation()->part(part(name)->id);
        const Tessellation& shape = made->bodies[0].body.tessellation();
        for (const FaceInfo& face : shape.faces) {
            if (face.direction.dot(normal) < 0.99 || face.area_mm2 < 200) continue;
            for (const SceneBody& body : window->view()->scene().bodies)
                if (body.part == made->part && !body.support)
                    return QTest::mouseClick(
                        window->view(), Qt::LeftButton, with,
                        window->view()->project(body.place * (face.centre + Vec3(12, 6, 0))).toPoint());
        }
        ADD_FAILURE() << "no such face";
    }
    /// By the offer and the entry of its list.
    void mark(const char* how) {
        take("Mark …");
        take_from_menu(how);
        settle();
    }
    /// What the legend reads at a place, once the rays of a finely parted surface are there.
    double thickness_at(const Vec3& place) {
        std::optional<double> value;
        EXPECT_TRUE(QTest::qWaitFor(
            [&] { return (value = window->legend()->value_at(window->view()->project(place))).has_value(); }));
        return value.value_or(-1);
    }
    QString panel_words() {
        QStringList words;
        for (QLabel* label : window->findChild<BedPanel*>()->findChildren<QLabel*>())
            if (label->isVisible()) words << label->text();
        return words.join("\n");
    }
};

} // namespace

TEST_F(FaceMarking, AFaceIsMarkedByADigitSeenInThePanelAndTakenOff) {
    open_stool();
    EXPECT_TRUE(panel_words().contains("Choose faces and mark them"));
    click_face("Stool", Vec3::UnitZ());
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    mark("seen");
    ASSERT_EQ(marks().size(), 1u);
    EXPECT_EQ(marks()[0].mark, FaceMark::Seen);
    EXPECT_TRUE(panel_words().contains("seen, ")) << panel_words().toStdString();
    ASSERT_EQ(window->view()->scene().marked.size(), 1u);
    // The same face takes another mark in its place, by keys alone: the offer's digit, down to the third entry.
    window->view()->setFocus();
    const auto& offers = window->offers()->offers();
    const auto at =
        std::find_if(offers.begin(), offers.end(), [](const auto& offer) { return offer.words == "Mark …"; });
    ASSERT_LT(at - offers.begin(), 9);
    press(Qt::Key(Qt::Key_1 + int(at - offers.begin())));
    ASSERT_NE(menu(), nullptr);
    EXPECT_TRUE(menu()->actions()[0]->isChecked()) << "it is seen now";
    for (int i = 0; i < 3; ++i) QTest::keyClick(menu(), Qt::Key_Down);
    QTest::keyClick(menu(), Qt::Key_Return);
    settle();
    ASSERT_EQ(marks().size(), 1u);
    EXPECT_EQ(marks()[0].mark, FaceMark::Never);
    undo();
    EXPECT_EQ(marks()[0].mark, FaceMark::Seen);
    redo();
    mark("no mark");
    EXPECT_TRUE(marks().empty());
    undo();
    // And by the button of its row.
    for (QPushButton* button : window->findChild<BedPanel*>()->findChildren<QPushButton*>())
        if (button->isVisible() && button->accessibleName().startsWith("Take the mark off")) {
            QTest::mouseClick(button, Qt::LeftButton);
            break;
        }
    settle();
    EXPECT_TRUE(marks().empty());
    EXPECT_TRUE(window->view()->scene().marked.empty());
}

namespace {

class Brushing : public FaceMarking {
  protected:
    /// A dome of triangles, 60 across, as it came from a file.
    /// From its list, which the pointer opens.
    void choose_from(QComboBox* box, const QString& words) {
        QTest::mouseClick(box, Qt::LeftButton);
        const int row = box->findText(words);
        ASSERT_GE(row, 0);
        for (int i = box->currentIndex(); i < row; ++i) QTest::keyClick(box->view(), Qt::Key_Down);
        QTest::keyClick(box->view(), Qt::Key_Return);
        settle();
    }
    void open_dome() {
        TriMesh dome = test::sphere(30, 60);
        for (Vec3& v : dome.vertices) v.z() = std::max(v.z(), 0.0);
        std::filesystem::create_directories(folder.path / "imports");
        for (const auto& where : {folder.path / "imports" / "dome.stl", folder.path / "dome.stl"})
            std::ofstream(where, std::ios::binary) << write_stl_binary(dome);
        const nlohmann::json brought{{"kind", "bring_in"}, {"fields", {{"file", "dome.stl"}}}};
        open_part("Dome", nlohmann::json::array({brought}), Stretch::Bed);
        ASSERT_TRUE(session->results().evaluation()->part(part("Dome")->id)->mesh);
    }
    const std::vector<BrushDab>& dabs() { return part("Dome")->brushed; }
    QComboBox* brush_choice() {
        for (QComboBox* box : window->bed_panel()->findChildren<QComboBox*>())
            if (box->isVisible() && box->accessibleName() == "Brush") return box;
        return nullptr;
    }
    QPointF top() {
        for (const SceneBody& body : window->view()->scene().bodies)
            if (body.part == part("Dome")->id && !body.support && !body.brushed)
                return window->view()->project(body.place * Vec3(0, 0, 29));
        ADD_FAILURE() << "no dome";
        return {};
    }
};

} // namespace

TEST_F(Brushing, IsDrawnOverAMeshWithThePointer) {
    open_dome();
    ASSERT_TRUE(brush_choice());
    choose_from(brush_choice(), "seen");
    settle();
    ASSERT_TRUE(session->workspace().brush());
    EXPECT_EQ(QApplication::focusWidget(), window->view()) << "the keys go where the brush is";
    const QPointF from = top(), to = from + QPointF(40, 0);
    window->view()->setProperty("still", true);
    QTest::mouseMove(window->view(), from.toPoint());
    QTest::mousePress(window->view(), Qt::LeftButton, {}, from.toPoint());
    for (int i = 1; i <= 8; ++i) QTest::mouseMove(window->view(), (from + (to - from) * i / 8).toPoint());
    EXPECT_TRUE(dabs().empty()) << "nothing is kept while it is drawn";
    QTest::mouseRelease(window->view(), Qt::LeftButton, {}, to.toPoint());
    settle();
    ASSERT_GT(dabs().size(), 2u);
    for (const BrushDab& dab : dabs()) EXPECT_EQ(dab.mark, FaceMark::Seen);
    EXPECT_TRUE(panel_words().contains("Brushed: seen on ")) << panel_words().toStdString();
    const auto& bodies = window->view()->scene().bodies;
    EXPECT_EQ(std::count_if(bodies.begin(), bodies.end(), [](const SceneBody& b) { return b.brushed; }), 1);
    EXPECT_TRUE(session->workspace().selection().empty()) << "drawing chooses nothing";
    const auto kept = dabs();
    undo();
    EXPECT_TRUE(dabs().empty());
    redo();
    EXPECT_EQ(dabs(), kept);
    // Escape puts it away; a click chooses again.
    press(Qt::Key_Escape);
    settle();
    EXPECT_FALSE(session->workspace().brush());
    EXPECT_EQ(brush_choice()->currentText(), "put away");
    QTest::mouseClick(window->view(), Qt::LeftButton, {}, from.toPoint());
    EXPECT_EQ(session->workspace().selection().size(), 1u);
}

TEST_F(Brushing, IsLedByKeysMadeWiderAndWipesOff) {
    open_dome();
    say("brush never");
    ASSERT_TRUE(session->workspace().brush());
    const double radius = session->workspace().brush()->radius_mm;
    ASSERT_EQ(QApplication::focusWidget(), window->view());
    press(Qt::Key_Plus);
    settle();
    EXPECT_NEAR(session->workspace().brush()->radius_mm, radius * 1.25, 1e-9);
    press(Qt::Key_Left); // to the middle of the view, where the dome is
    press(Qt::Key_Space);
    settle();
    ASSERT_EQ(dabs().size(), 1u) << said.toStdString();
    EXPECT_EQ(dabs()[0].mark, FaceMark::Never);
    EXPECT_NEAR(dabs()[0].radius_mm, radius * 1.25, 1e-9);
    EXPECT_GT(dabs()[0].out.dot(dabs()[0].at.normalized()), 0.9) << "away from the dome";
    press(Qt::Key_Right);
    press(Qt::Key_Right);
    press(Qt::Key_Right);
    press(Qt::Key_Space);
    settle();
    EXPECT_EQ(dabs().size(), 2u);
    // Across is typed; what wipes off goes over all of it.
    say("wipe marks");
    ValueField* across = nullptr;
    for (ValueField* field : window->bed_panel()->findChildren<ValueField*>())
        if (field->accessibleName() == "Across" && field->isVisible()) across = field;
    ASSERT_TRUE(across);
    type_into(across, "0");
    settle();
    EXPECT_GT(session->workspace().brush()->radius_mm, 1) << "refused";
    for (ValueField* field : window->bed_panel()->findChildren<ValueField*>())
        if (field->accessibleName() == "Across" && field->isVisible()) across = field;
    type_into(across, "80");
    settle();
    ASSERT_TRUE(session->workspace().brush());
    EXPECT_NEAR(session->workspace().brush()->radius_mm, 40, 1e-9);
    window->view()->setFocus();
    press(Qt::Key_Space);
    settle();
    EXPECT_TRUE(panel_words().contains("Brushed: nothing is left")) << panel_words().toStdString();
    for (QPushButton* button : window->bed_panel()->findChildren<QPushButton*>())
        if (button->isVisible() && button->text() == "Wipe all") {
            QTest::mouseClick(button, Qt::LeftButton);
            break;
        }
    settle();
    EXPECT_TRUE(dabs().empty());
    // Another stretch of the work puts it away; a part with faces has none.
    go(Stretch::Check);
    settle();
    EXPECT_FALSE(session->workspace().brush());
    open_stool();
    EXPECT_FALSE(brush_choice());
}

TEST_F(FaceMarking, AreDrawnByAPatternAndAWord) {
    open_stool();
    window->view()->setProperty("still", true);
    click_face("Stool", Vec3::UnitZ());
    mark("seen");
    press(Qt::Key_Escape);
    settle();
    ASSERT_TRUE(session->workspace().selection().empty());
    const QImage with = window->view()->grab().toImage();
    undo();
    ASSERT_TRUE(marks().empty());
    const QImage without = window->view()->grab().toImage();
    ASSERT_EQ(with.size(), without.size());
    size_t differ = 0;
    for (int y = 0; y < with.height(); ++y)
        for (int x = 0; x < with.width(); ++x) differ += with.pixel(x, y) != without.pixel(x, y);
    EXPECT_GT(differ, 1500u) << "dots over the seat, and the word";
}

TEST_F(FaceMarking, SupportsKeepOffAndThePanelSaysWhatHangsThere) {
    open_stool();
    take("Put supports in");
    auto supports = [&] { return session->results().analysis()->part(part("Stool")->id)->supports; };
    ASSERT_GT(supports().count(), 0u);
    take("Turn over"); // the underside is in sight then
    click_face("Stool", -Vec3::UnitZ());
    mark("never supported");
    press(Qt::Key_Escape);
    ASSERT_TRUE(session->workspace().selection().empty());
    take("Turn over");
    EXPECT_EQ(supports().count(), 0u);
    EXPECT_TRUE(panel_words().contains("2300 mm² hang on faces that no support may touch"))
        << panel_words().toStdString(); // 60 x 40 less the leg
    undo(), undo();
    EXPECT_TRUE(marks().empty());
}

TEST_F(FaceMarking, WaysUpAreComparedAnewWhenAFaceIsMarked) {
    open_stool();
    say("compare ways up");
    settle();
    ASSERT_TRUE(window->pose_cards()->isVisible());
    const double before = window->pose_cards()->choices().front().pose.score;
    press(Qt::Key_Escape);
    click_face("Stool", Vec3::UnitZ());
    mark("seen");
    say("compare ways up");
    settle();
    ASSERT_TRUE(window->pose_cards()->isVisible());
    EXPECT_TRUE(window->pose_cards()->choices().front().marked);
    EXPECT_NEAR(window->pose_cards()->choices().front().pose.score, before, 1) << "level: it is smooth";
    EXPECT_TRUE(window->pose_cards()->cards().front()->accessibleDescription().contains("rough"));
    // Undone with the cards open they follow.
    undo();
    settle();
    ASSERT_TRUE(window->pose_cards()->isVisible());
    EXPECT_FALSE(window->pose_cards()->choices().front().marked);
}

TEST_F(FaceMarking, WallsAreColouredInCheckAndReadUnderThePointer) {
    open_part("Plate", nlohmann::json::array({block(60, 40, 1.2)}), Stretch::Check);
    auto* panel = window->findChild<CheckPanel*>();
    ASSERT_TRUE(panel->walls_choice());
    EXPECT_TRUE(panel->hanging_choice()->isChecked());
    panel->walls_choice()->setFocus();
    press(Qt::Key_Space);
    settle();
    ASSERT_EQ(session->results().check_map().size(), 1u);
    EXPECT_TRUE(panel->walls_choice()->isChecked());
    EXPECT_TRUE(QTest::qWaitFor([&] { return panel->walls_choice()->hasFocus(); })) << "who pressed it goes on there";
    const SceneBody* plate = nullptr;
    for (const SceneBody& body : window->view()->scene().bodies)
        if (body.map) plate = &body;
    ASSERT_NE(plate, nullptr);
    EXPECT_NEAR(thickness_at(plate->place * Vec3(5, 5, 1.2)), 1.2, 0.01);
    // Thinner by its number: the map follows.
    go(Stretch::Shape);
    EXPECT_TRUE(session->results().check_map().empty()) << "nothing is worked out that nobody looks at";
    type(0, "size_z", "0.5");
    settle();
    go(Stretch::Check);
    settle();
    EXPECT_NEAR(thickness_at(Vec3(5, 5, 0.5)), 0.5, 0.01);
    // The finding about it turns the view to it; what hangs is one press away.
    QTest::mouseClick(panel->hanging_choice(), Qt::LeftButton);
    settle();
    EXPECT_TRUE(session->results().check_map().empty());
    for (MarkRow* row : panel->finding_rows())
        if (row->title().startsWith("Thin")) {
            QTest::mouseClick(row, Qt::LeftButton);
            break;
        }
    settle();
    EXPECT_EQ(session->workspace().coloured(), Workspace::Coloured::Walls);
}

TEST_F(FaceMarking, TheOutlineOfAChosenFaceIsWrittenAsADrawing) {
    open_stool();
    say("write an outline");
    settle();
    EXPECT_TRUE(said_wrong && said.contains("Choose a flat face")) << said.toStdString();
    click_face("Stool", Vec3::UnitZ());
    ASSERT_EQ(session->workspace().selection().size(), 1u);
    const QString file = QString::fromStdString((folder.path / "seat.dxf").string());
    DialogAnswer answer(file);
    say("write an outline");
    EXPECT_TRUE(QTest::qWaitFor([&] { return QFile::exists(file); }, 20000)) << answer.said();
    settle();
    EXPECT_TRUE(said.contains("Wrote the outline")) << said.toStdString();
    QFile written(file);
    ASSERT_TRUE(written.open(QIODevice::ReadOnly));
    EXPECT_EQ(written.readAll().count("\nLINE\n"), 4) << "the seat: 60 by 40";
    EXPECT_EQ(session->workspace().selection().size(), 1u) << "what is chosen stays chosen";
    EXPECT_EQ(window->focusWidget(), window->view()) << "the keys go back to the view";
}

TEST_F(FaceMarking, TheMapOfWallsIsWrittenWithItsColours) {
    open_stool();
    go(Stretch::Check);
    say("write the map");
    settle();
    EXPECT_TRUE(said_wrong && said.contains("Nothing is mapped")) << said.toStdString();
    QTest::mouseClick(window->check_panel()->walls_choice(), Qt::LeftButton);
    ASSERT_TRUE(QTest::qWaitFor([&] { return !session->results().check_map().empty(); }, 20'000));
    settle();
    const QString file = QString::fromStdString((folder.path / "walls.ply").string());
    {
        DialogAnswer answer(file);
        say("write the map");
        EXPECT_TRUE(QTest::qWaitFor([&] { return QFile::exists(file); }, 20'000)) << answer.said();
    }
    settle();
    EXPECT_TRUE(said.contains("Wrote the map") && said.contains("mm")) << said.toStdString();
    auto bytes = read_file(file.toStdString());
    ASSERT_TRUE(bytes);
    EXPECT_NE(bytes->find("property uchar red"), std::string::npos);
    auto read = read_objects("walls.ply", *bytes);
    ASSERT_TRUE(read) << read.error().text();
    const Box3 seen = session->results().evaluation()->parts.at(0).box;
    EXPECT_NEAR((bounding_box(read->objects[0].mesh).sizes() - seen.sizes()).norm(), 0, 1e-6);
}
