#include "project/contact_words.h"
// Widgets one by one: the field, the tape, the shelf, the ledger, the strip, the camera and the picture.
#include "app/ledger/ledger.h"
#include "app/offers/offers_bar.h"
#include "app/sheet/build_sheet.h"
#include "app/sheet/shelf.h"
#include "app/sheet/step_words.h"
#include "app/strip/layer_strip.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/view/camera.h"
#include "app/view/renderer.h"
#include "app/view/view_widget.h"
#include "app/widgets/tape.h"
#include "app/widgets/value_field.h"
#include "shape/exact_solids.h"
#include "test_meshes.h"
#include <QApplication>
#include <QLineEdit>
#include <QTableWidget>
#include <QWheelEvent>
#include <QtTest/QTest>
#include <gtest/gtest.h>
#include <set>

using namespace lp;

namespace {

struct FieldWatch {
    ValueField field{ValueField::Look::Number};
    QStringList submitted;
    std::vector<double> steps;
    QString hint;
    bool wrong = false;
    FieldWatch() {
        field.set_value("6 mm", "6 mm");
        field.set_stepping(true);
        field.set_check([](const QString& text) {
            return std::pair(text.contains("x") ? "no number" : "= fine", text.contains("x"));
        });
        QObject::connect(&field, &ValueField::submitted, [this](const QString& text) { submitted << text; });
        QObject::connect(&field, &ValueField::stepped, [this](double by) { steps.push_back(by); });
        QObject::connect(&field, &ValueField::hint_changed,
                         [this](const QString& text, bool bad) { hint = text, wrong = bad; });
        field.resize(120, 25);
        field.show();
        field.activateWindow();
        field.setFocus();
        QApplication::processEvents();
    }
};

Scene scene_of(const Body& body) {
    Scene scene;
    SceneBody b;
    b.part = PartId(1);
    b.shape = body.shared_tessellation();
    b.colour = QColor(200, 120, 60);
    scene.bodies = {b};
    return scene;
}

Body block(const Vec3& size, const Vec3& at = Vec3(0, 0, 0)) {
    Transform t = Transform::Identity();
    t.translate(at);
    auto made = make_block(size, t, {1});
    EXPECT_TRUE(made);
    return made.value_or(Body());
}

double reddish_share(const QImage& image) {
    int red = 0, all = 0;
    for (int y = 0; y < image.height(); y += 3)
        for (int x = 0; x < image.width(); x += 3) {
            QColor c = image.pixelColor(x, y);
            red += c.red() > c.blue() + 30;
            ++all;
        }
    return double(red) / all;
}

} // namespace

TEST(ValueField, TypingOpensItEnterSubmitsAndEscapeLeavesIt) {
    FieldWatch w;
    QTest::keyClicks(&w.field, "7");
    ASSERT_TRUE(w.field.editing());
    EXPECT_EQ(w.field.editor()->text(), "7"); // typing replaces
    QTest::keyClicks(w.field.editor(), ".5");
    QTest::keyClick(w.field.editor(), Qt::Key_Return);
    EXPECT_EQ(w.submitted, QStringList{"7.5"});
    EXPECT_TRUE(w.field.editing()); // until the receiver accepts
    w.field.accept();
    EXPECT_FALSE(w.field.editing());
    w.field.begin_edit();
    EXPECT_EQ(w.field.editor()->selectedText(), "6 mm");
    QTest::keyClick(w.field.editor(), Qt::Key_Escape);
    EXPECT_FALSE(w.field.editing());
    EXPECT_EQ(w.submitted.size(), 1);
}
TEST(ValueField, SaysWhileTypingWhatItWouldComeTo) {
    FieldWatch w;
    w.field.begin_edit();
    QTest::keyClicks(w.field.editor(), "x");
    EXPECT_TRUE(w.wrong);
    EXPECT_EQ(w.hint, "no number");
    w.field.refuse("because");
    EXPECT_EQ(w.hint, "because");
    QTest::keyClick(w.field.editor(), Qt::Key_Escape);
    EXPECT_TRUE(w.hint.isEmpty());
}
TEST(ValueField, ArrowsAndTheWheelStep) {
    FieldWatch w;
    QTest::keyClick(&w.field, Qt::Key_Up);
    QTest::keyClick(&w.field, Qt::Key_Down, Qt::ShiftModifier);
    QTest::keyClick(&w.field, Qt::Key_Up, Qt::ControlModifier);
    EXPECT_EQ(w.steps, (std::vector<double>{1, -0.1, 10}));
}
TEST(ValueField, AMenuOpensInsteadOfTheEditor) {
    FieldWatch w;
    int opened = 0;
    w.field.set_menu([&](ValueField*) { ++opened; });
    QTest::mouseClick(&w.field, Qt::LeftButton, {}, QPoint(10, 10));
    QTest::keyClick(&w.field, Qt::Key_Return);
    QTest::keyClicks(&w.field, "s");
    EXPECT_EQ(opened, 2);
    EXPECT_FALSE(w.field.editing());
}

TEST(Sentences, EveryKindReadsAsWordsAndFields) {
    for (const StepKind& kind : step_kinds()) {
        QString words;
        size_t fields = 0;
        for (const SentencePiece& piece : sentence_pieces(kind)) {
            words += piece.words;
            fields += piece.field != nullptr;
        }
        EXPECT_FALSE(words.contains('{')) << kind.id;
        EXPECT_GT(fields, 0u) << kind.id;
        EXPECT_EQ(fields, kind.fields.size()) << kind.id << ": every field can be edited in the sentence";
    }
}

TEST(Camera, FitPutsTheWholeBoxInThePicture) {
    Camera camera;
    QSize size(800, 600);
    for (double yaw : {-55.0, 10.0, 200.0})
        for (double pitch : {-30.0, 5.0, 89.0}) {
            camera.yaw_deg = yaw;
            camera.pitch_deg = pitch;
            Box3 box(Vec3(-10, 5, 0), Vec3(90, 25, 60));
            camera.fit(box, size);
            for (int i = 0; i < 8; ++i)
                EXPECT_TRUE(QRectF(0, 0, 800, 600).contains(camera.project(box.corner(Box3::CornerType(i)), size)));
        }
}
TEST(Camera, ZoomKeepsThePlaceUnderThePointer) {
    Camera camera;
    QSize size(800, 600);
    QPointF at(620, 140);
    Vec3 before = camera.ray(at, size).origin;
    camera.zoom(0.5, at, size);
    Vec3 off = camera.ray(at, size).origin - before;
    EXPECT_NEAR((off - off.dot(camera.forward()) * camera.forward()).norm(), 0, 1e-9);
}
TEST(Camera, ARayGoesThroughWhatIsProjectedThere) {
    Camera camera;
    QSize size(800, 600);
    Vec3 p(12, -7, 33);
    Camera::Ray ray = camera.ray(camera.project(p, size), size);
    EXPECT_NEAR((p - ray.origin).cross(ray.direction).norm(), 0, 1e-9);
}
TEST(Camera, SquareOnLooksStraight) {
    Camera camera;
    for (const Vec3& d : {Vec3(0, 0, -1), Vec3(0, 1, 0), Vec3(-1, 0, 0)}) {
        camera.look_along(d);
        EXPECT_NEAR((camera.forward() - d).norm(), 0, 1e-9);
    }
}

TEST(Renderer, DrawsABodyWhereTheCameraLooks) {
    Renderer renderer;
    ASSERT_TRUE(renderer.problem().isEmpty()) << renderer.problem().toStdString();
    Scene scene = scene_of(block({40, 40, 40}));
    Camera camera;
    camera.fit(scene.box(), QSize(300, 300));
    double near = reddish_share(renderer.render(scene, camera, QSize(300, 300), 1));
    EXPECT_GT(near, 0.25);
    camera.centre += Vec3(1000, 0, 0);
    EXPECT_LT(reddish_share(renderer.render(scene, camera, QSize(300, 300), 1)), 0.02);
}
TEST(Renderer, ACutShowsItsFaceAndTakesTheRestAway) {
    Renderer renderer;
    Scene scene = scene_of(block({40, 40, 40}));
    Camera camera;
    camera.yaw_deg = -90;
    camera.pitch_deg = 0.5;
    camera.fit(scene.box(), QSize(300, 300));
    double whole = reddish_share(renderer.render(scene, camera, QSize(300, 300), 1));
    scene.section = Eigen::Vector4d(0, 0, -1, 20); // keeps z below 20: half of it
    EXPECT_NEAR(reddish_share(renderer.render(scene, camera, QSize(300, 300), 1)), whole / 2, whole * 0.06);
    camera.pitch_deg = 90; // from above, the hatched cut face is as large as the top was
    double top = reddish_share(renderer.render(scene, camera, QSize(300, 300), 1));
    scene.section.reset();
    EXPECT_NEAR(reddish_share(renderer.render(scene, camera, QSize(300, 300), 1)), top, 0.05);
}
TEST(Renderer, WhatHangsIsHatchedOnlyWhenAsked) {
    Renderer renderer;
    Scene scene = scene_of(block({40, 40, 10}, {0, 0, 20}));
    scene.active_part = PartId(1);
    Camera camera;
    camera.pitch_deg = -80; // from below
    camera.fit(scene.box(), QSize(200, 200));
    QImage plain = renderer.render(scene, camera, QSize(200, 200), 1);
    auto mapped = [&](double limit) {
        PartResult part;
        part.part = PartId(1);
        part.bodies = {{StepId(1), "", block({40, 40, 10}, {0, 0, 20})}};
        SurfaceMap map = hanging_maps(part, Transform::Identity(), limit).at(0);
        scene.bodies[0].shape = map.shape;
        scene.bodies[0].map = std::make_shared<const SurfaceMap>(map);
    };
    mapped(45);
    QImage map = renderer.render(scene, camera, QSize(200, 200), 1);
    EXPECT_NE(plain, map);
    mapped(90);
    std::set<QRgb> hatch, none;
    QImage allowed = renderer.render(scene, camera, QSize(200, 200), 1);
    for (int i = 60; i < 140; ++i) hatch.insert(map.pixel(i, 100)), none.insert(allowed.pixel(i, 100));
    EXPECT_GT(hatch.size(), none.size());
}

TEST(Scene, LooksTheSameOnlyWhenNothingThatIsSeenDiffers) {
    auto shape = std::make_shared<const Tessellation>();
    auto scene = [&] {
        Scene s;
        SceneBody body;
        body.part = PartId(1);
        body.shape = shape;
        body.colour = QColor("#b0562f");
        s.bodies = {body, body};
        Pick pick;
        pick.kind = Pick::Kind::Body;
        pick.part = PartId(1);
        s.selected.push_back(pick);
        s.active_part = PartId(1);
        return s;
    };
    EXPECT_TRUE(scene().looks_like(scene()));
    EXPECT_TRUE(Scene().looks_like(Scene()));
    const std::vector<std::function<void(Scene&)>> changes{
        [](Scene& s) { s.bodies.pop_back(); },
        [](Scene& s) { s.bodies[1].part = PartId(2); },
        [](Scene& s) { s.bodies[1].shape = std::make_shared<const Tessellation>(); },
        [](Scene& s) { s.bodies[1].place.translate(Vec3(0, 0, 1e-9)); },
        [](Scene& s) { s.bodies[0].colour = QColor("#b0562e"); },
        [](Scene& s) { s.bodies[0].see_through = true; },
        [](Scene& s) { s.bodies[0].stand_in = true; },
        [](Scene& s) { s.bodies[0].support = true; },
        [](Scene& s) { s.bodies[0].veil = true; },
        [](Scene& s) { s.bodies[0].map = std::make_shared<const SurfaceMap>(); },
        [](Scene& s) { s.selected.clear(); },
        [](Scene& s) { s.selected[0].part = PartId(2); },
        [](Scene& s) { s.hovered.kind = Pick::Kind::Face; },
        [](Scene& s) { s.active_part = PartId(2); },
        [](Scene& s) { s.edges = false; },
        [](Scene& s) { s.edges_only = true; },
        [](Scene& s) { s.section = Eigen::Vector4d(1, 0, 0, 2); },
        [](Scene& s) { s.print_frame.translate(Vec3(0, 0, 1)); },
        [](Scene& s) { s.bed_mm.x() += 1; },
        [](Scene& s) { s.bed_centre.y() += 1; },
        [](Scene& s) { s.bed_z = 1; }};
    for (size_t i = 0; i < changes.size(); ++i) {
        Scene changed = scene();
        changes[i](changed);
        EXPECT_FALSE(changed.looks_like(scene())) << i;
        EXPECT_FALSE(scene().looks_like(changed)) << i;
    }
}

TEST(Picker, TakesTheEdgeUnderThePointerThenTheFaceThenTheBody) {
    Scene scene = scene_of(block({40, 40, 40}));
    Camera camera;
    QSize size(600, 600);
    camera.fit(scene.box(), size);
    Picker picker;
    picker.set_scene(scene);
    auto middle = picker.candidates(scene, camera, camera.project({20, 20, 40}, size), size);
    ASSERT_GE(middle.size(), 2u);
    EXPECT_EQ(middle[0].kind, Pick::Kind::Face);
    EXPECT_NEAR((middle[0].point - Vec3(20, 20, 40)).norm(), 0, 0.01);
    EXPECT_EQ(middle[1].kind, Pick::Kind::Body);
    auto edge = picker.candidates(scene, camera, camera.project({20, 0, 40}, size), size);
    ASSERT_FALSE(edge.empty());
    EXPECT_EQ(edge[0].kind, Pick::Kind::Edge);
    EXPECT_TRUE(picker.candidates(scene, camera, QPointF(2, 2), size).empty());
    scene.section = Eigen::Vector4d(0, 0, -1, 20);
    for (const Pick& pick : picker.candidates(scene, camera, camera.project({20, 20, 40}, size), size))
        EXPECT_LT(pick.point.z(), 20.01); // nothing that is cut away
}

TEST(Marks, EveryStateOfTheRingLooksDifferentWithoutColour) {
    std::set<std::string> shapes;
    for (FitState state : {FitState::Right, FitState::Tight, FitState::Slack, FitState::Touching, FitState::Overlapping,
                           FitState::Unset}) {
        QImage image(40, 40, QImage::Format_ARGB32);
        image.fill(Qt::transparent);
        QPainter painter(&image);
        theme::draw_fit_ring(painter, QRectF(0, 0, 40, 40), state);
        painter.end();
        std::string shape; // opaque or not, colour left out; a crossed disc differs by its light strokes
        for (int y = 0; y < 40; y += 2)
            for (int x = 0; x < 40; x += 2) {
                QColor c = image.pixelColor(x, y);
                shape += c.alpha() < 128 ? ' ' : c.lightness() > 200 ? 'o' : '#';
            }
        EXPECT_TRUE(shapes.insert(shape).second) << lp::fit_state_words(state);
    }
}
TEST(Theme, TextMeetsTheContrastOfWcag22AA) { // WCAG 2.2, 1.4.3: 4.5 to 1 for text, 1.4.11: 3 to 1 for marks
    auto luminance = [](const QColor& c) {
        auto channel = [](double v) { return v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4); };
        return 0.2126 * channel(c.redF()) + 0.7152 * channel(c.greenF()) + 0.0722 * channel(c.blueF());
    };
    auto contrast = [&](theme::Role a, theme::Role b) {
        double x = luminance(theme::colour(a)), y = luminance(theme::colour(b));
        return (std::max(x, y) + 0.05) / (std::min(x, y) + 0.05);
    };
    using R = theme::Role;
    for (auto [text, ground] : {std::pair(R::Ink, R::Paper),
                                {R::Ink, R::Card},
                                {R::SoftInk, R::Card},
                                {R::SoftInk, R::LedgerGround},
                                {R::Brass, R::Card},
                                {R::Accent, R::Card},
                                {R::Accent, R::LedgerGround},
                                {R::OnAccent, R::Accent},
                                {R::TapeInk, R::Tape},
                                {R::Wrong, R::Card},
                                {R::Ink, R::Wash},
                                {R::SoftInk, R::Wash},
                                {R::MatInk, R::Mat}})
        EXPECT_GE(contrast(text, ground), 4.5) << int(text) << " on " << int(ground);
    for (auto mark : {R::Hanging, R::Wrong, R::Slack, R::Accent}) EXPECT_GE(contrast(mark, R::Card), 3.0) << int(mark);
}

namespace {
class Regions : public ::testing::Test {
  protected:
    void SetUp() override {
        qputenv("XDG_STATE_HOME", QByteArray::fromStdString(folder.path.string()));
        session = std::make_unique<Session>();
        ASSERT_TRUE(session->document().open(QString(SOURCE_DIR) + "/data/demo/rain-gauge/project.json"));
        ASSERT_TRUE(session->wait_until_done());
    }
    void TearDown() override { session->document().close_in_peace(); }
    test::Folder folder;
    std::unique_ptr<Session> session;
};
} // namespace

TEST_F(Regions, TheTapeIsWalkedWithArrowKeys) {
    Tape tape(session.get());
    QTest::keyClick(&tape, Qt::Key_Left);
    EXPECT_EQ(session->workspace().stretch(), Stretch::Shape);
    for (int i = 0; i < 7; ++i) QTest::keyClick(&tape, Qt::Key_Right);
    EXPECT_EQ(session->workspace().stretch(), Stretch::Export);
}
TEST_F(Regions, TheShelfIsWorkedWithKeys) {
    Shelf shelf(session.get());
    shelf.resize(shelf.sizeHint());
    shelf.show();
    QTest::keyClick(&shelf, Qt::Key_Down);
    EXPECT_EQ(session->project()->part(session->workspace().active_part())->name, "Cradle");
    QTest::keyClick(&shelf, Qt::Key_Space);
    EXPECT_FALSE(session->project()->part(session->workspace().active_part())->visible);
    QTest::keyClick(&shelf, Qt::Key_Plus);
    EXPECT_EQ(session->project()->part(session->workspace().active_part())->quantity, 2);
    EXPECT_EQ(shelf.ring_of(*session->project()->part_named("Cradle")), FitState::Right);
    EXPECT_EQ(shelf.ring_of(*session->project()->part_named("Funnel")), FitState::Unset);
    shelf.rename(1);
    auto* editor = shelf.findChild<QLineEdit*>();
    ASSERT_NE(editor, nullptr);
    editor->setText("Frame");
    QTest::keyClick(editor, Qt::Key_Return);
    EXPECT_NE(session->project()->part_named("Frame"), nullptr);
    QTest::keyClick(&shelf, Qt::Key_Up); // the bucket is in use: it stays, with a sentence
    QString said;
    QObject::connect(&session->document(), &Document::said, [&](const QString& text, bool) { said = text; });
    QTest::keyClick(&shelf, Qt::Key_Delete);
    EXPECT_NE(session->project()->part_named("See-saw bucket"), nullptr);
    EXPECT_TRUE(said.contains("in use")) << said.toStdString();
}
TEST_F(Regions, ARowOfTheLedgerJumpsToItsPlace) {
    Ledger ledger(session.get());
    ledger.resize(1200, 250);
    ledger.set_open(true);
    ledger.show();
    ASSERT_GT(ledger.table()->rowCount(), 4);
    emit ledger.table()->cellActivated(1, 0); // the battery's contact
    EXPECT_EQ(session->workspace().stretch(), Stretch::Fit);
    ASSERT_TRUE(session->workspace().active_contact());
    EXPECT_EQ(*session->workspace().active_contact(), session->results().analysis()->contacts.at(1).ref());
    int open_row = -1;
    for (int r = 0; r < ledger.table()->rowCount(); ++r)
        if (ledger.table()->item(r, 2)->text().startsWith("Open edges")) open_row = r;
    ASSERT_GE(open_row, 0);
    emit ledger.table()->cellActivated(open_row, 0);
    EXPECT_EQ(session->workspace().stretch(), Stretch::Check);
    EXPECT_EQ(session->project()->part(session->workspace().active_part())->name, "Leaf guard");
    ASSERT_TRUE(session->workspace().active_finding());
    EXPECT_EQ(session->workspace().active_finding()->kind, FindingKind::Open);
}
TEST_F(Regions, TheStripCutsByWholeLayersWithKeys) {
    LayerStrip strip(session.get());
    strip.resize(92, 700);
    strip.show();
    double top = strip.handle_z();
    QTest::keyClick(&strip, Qt::Key_Down);
    ASSERT_TRUE(session->workspace().cut_height());
    double first = *session->workspace().cut_height();
    EXPECT_LT(first, top);
    QTest::keyClick(&strip, Qt::Key_Down, Qt::ShiftModifier);
    EXPECT_NEAR(first - *session->workspace().cut_height(), 2.0, 1e-6); // ten layers of 0.2 mm
    QTest::keyClick(&strip, Qt::Key_Escape);
    EXPECT_FALSE(session->workspace().cut_height());
    EXPECT_NEAR(strip.z_of(strip.y_of(12.3)), 12.3, 1e-9);
}
TEST_F(Regions, TheNumbersListSetsParameters) {
    BuildSheet sheet(session.get());
    sheet.resize(344, 900);
    sheet.show();
    ValueField* field = sheet.parameter_field("peg_d");
    ASSERT_NE(field, nullptr);
    field->begin_edit();
    field->editor()->setText("wall * 4");
    QTest::keyClick(field->editor(), Qt::Key_Return);
    EXPECT_EQ(session->project()->parameters[0].expression, "wall * 4");
    ASSERT_TRUE(session->wait_until_done());
    EXPECT_EQ(sheet.parameter_field("peg_d")->shown(), "8 mm");
    field = sheet.parameter_field("wall");
    field->begin_edit();
    field->editor()->setText("peg_d / 2"); // a circle
    QTest::keyClick(field->editor(), Qt::Key_Return);
    EXPECT_TRUE(field->editing());
    EXPECT_EQ(session->project()->parameters[1].expression, "2 mm");
}
