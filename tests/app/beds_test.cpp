// A kit arranged on its beds, pushed about and locked, by pointer and keys.
#include "app/bed_layout.h"
#include "app/view/stand_handles.h"
#include "window_test.h"
#include <QCheckBox>
#include <QSpinBox>
#include <nlohmann/json.hpp>

using namespace lp;

namespace {

class Beds : public lp::Window {
  protected:
    void open_kit() {
        nlohmann::json parts = nlohmann::json::array();
        auto add = [&](const char* name, int quantity, const char* colour, double x, double y) {
            parts.push_back(
                {{"name", name},
                 {"quantity", quantity},
                 {"colour", colour},
                 {"steps", {{{"kind", "block"}, {"fields", {{"size_x", x}, {"size_y", y}, {"size_z", 6}}}}}}});
        };
        add("Tray", 2, "#d69b48", 120, 80);
        add("Stake", 4, "#d69b48", 150, 14);
        add("Marker", 5, "#5f8f5a", 40, 30);
        add("Foot", 3, "#7a86a8", 50, 50);
        const auto file = folder.path / "kit.json";
        std::ofstream(file) << nlohmann::json{{"format", "loose-peg"}, {"version", 1}, {"parts", parts}};
        ASSERT_TRUE(session->document().open(QString::fromStdString(file.string())));
        settle();
        go(Stretch::Bed);
        settle();
    }
    BedCopy copy(const char* name, int number) {
        for (const BedCopy& c : bed_layout(*session).copies)
            if (c.part == part(name)->id && c.copy == number) return c;
        ADD_FAILURE() << name << " " << number;
        return {};
    }
    QPushButton* button(const QString& words) {
        for (QPushButton* b : window->bed_panel()->findChildren<QPushButton*>())
            if (b->text() == words && b->isVisible()) return b;
        return nullptr;
    }
    QCheckBox* tick(const QString& words) {
        for (QCheckBox* b : window->bed_panel()->findChildren<QCheckBox*>())
            if (b->text() == words && b->isVisible()) return b;
        return nullptr;
    }
    void type_number(const QString& name, const char* text) {
        ValueField* found = nullptr;
        for (ValueField* field : window->bed_panel()->findChildren<ValueField*>())
            if (field->accessibleName() == name) found = field;
        ASSERT_NE(found, nullptr) << name.toStdString();
        type_into(found, text);
        settle();
    }
    void drag(const QPointF& from, const QPointF& to) {
        QTest::mousePress(window->view(), Qt::LeftButton, {}, from.toPoint());
        for (int i = 1; i <= 4; ++i) QTest::mouseMove(window->view(), (from + (to - from) * i / 4).toPoint());
    }
    void let_go(const QPointF& at) {
        QTest::mouseRelease(window->view(), Qt::LeftButton, {}, at.toPoint());
        settle();
    }
};

} // namespace

TEST_F(Beds, AKitInThreeColoursGoesOnAsFewBedsAsItNeeds) {
    open_kit();
    choose("Tray");
    QTest::mouseClick(tick("One colour a bed"), Qt::LeftButton, {}, QPoint(8, 8));
    settle();
    ASSERT_TRUE(session->project()->beds.colours_apart);
    take("Arrange everything");
    EXPECT_EQ(bed_layout(*session).beds, 3u) << said.toStdString();
    EXPECT_EQ(said, "14 things on 3 beds.");
    std::map<size_t, std::set<std::string>> colours;
    for (const BedCopy& c : bed_layout(*session).copies) {
        EXPECT_TRUE(c.put);
        EXPECT_FALSE(c.past_border);
        colours[c.spot.bed].insert(session->project()->part(c.part)->colour);
    }
    for (const auto& [bed, on_it] : colours) EXPECT_EQ(on_it.size(), 1u) << bed;
    // All of them are seen.
    for (const SceneBody& body : window->view()->scene().bodies) {
        const QPointF at = window->view()->project(body.place * bounding_box(body.shape->mesh).center());
        EXPECT_TRUE(QRectF(window->view()->rect()).contains(at)) << at.x() << " " << at.y();
    }
    // Pushed: it follows the pointer while it is held, and stays where it is let go of; Undo takes it back.
    const BedSpot before = copy("Tray", 1).spot;
    StandHandles* stands = window->stands();
    const QPointF grip = stands->grip(1), there = grip + QPointF(-30, -12);
    drag(grip, there);
    EXPECT_TRUE(stands->busy());
    EXPECT_TRUE(stands->words().contains("mm from the left")) << stands->words().toStdString();
    EXPECT_EQ(copy("Tray", 1).spot, before) << "nothing is kept yet";
    let_go(there);
    const BedSpot after = copy("Tray", 1).spot;
    EXPECT_GT((after.at - before.at).norm(), 3);
    EXPECT_EQ(after.at, Vec2(std::round(after.at.x()), std::round(after.at.y()))) << "in whole millimetres";
    EXPECT_EQ(session->workspace().active_copy(), 1);
    EXPECT_LT((stands->grip(1) - there).manhattanLength(), 4) << "the cross is under the pointer";
    undo();
    EXPECT_EQ(copy("Tray", 1).spot, before);
    // Escape drops what is held.
    drag(stands->grip(1), there);
    QTest::keyClick(window->view(), Qt::Key_Escape);
    EXPECT_FALSE(stands->busy());
    let_go(there);
    EXPECT_EQ(copy("Tray", 1).spot, before);
}

TEST_F(Beds, TypedPlacesAndWhatStaysWhenAllIsArranged) {
    open_kit();
    choose("Tray");
    take("Arrange everything");
    auto* which = window->bed_panel()->findChild<QSpinBox*>();
    ASSERT_NE(which, nullptr);
    which->setFocus();
    press(Qt::Key_Up);
    settle();
    EXPECT_EQ(session->workspace().active_copy(), 1);
    type_number("From the left", "62");
    type_number("From the front", "50");
    type_number("Turned", "90");
    EXPECT_EQ(copy("Tray", 1).spot.at, Vec2(62, 50));
    EXPECT_EQ(copy("Tray", 1).spot.turn_deg, 90);
    // It stands past the front border now, and that is said on the tape's stretch and in the panel.
    EXPECT_TRUE(copy("Tray", 1).past_border);
    bool told = false;
    for (QLabel* note : window->bed_panel()->findChildren<QLabel*>())
        told = told || note->text().contains("past the border");
    EXPECT_TRUE(told);
    EXPECT_GT(open_findings(*session->results().evaluation(), session->results().analysis(), FindingStage::Bed), 0u);
    type_number("From the front", "70");
    QTest::mouseClick(tick("Stays there when everything is arranged"), Qt::LeftButton, {}, QPoint(8, 8));
    settle();
    EXPECT_TRUE(copy("Tray", 1).locked);
    QTest::mouseClick(button("Arrange everything"), Qt::LeftButton);
    settle();
    EXPECT_EQ(copy("Tray", 1).spot, (BedSpot{0, {62, 70}, 90}));
    EXPECT_TRUE(session->results().analysis()->beds.empty());
    // Saved and read again it stands there still.
    const QString file = QString::fromStdString((folder.path / "kept.loosepeg").string());
    ASSERT_TRUE(session->document().save(file));
    settle();
    ASSERT_TRUE(session->document().open(file));
    settle();
    EXPECT_EQ(copy("Tray", 1).spot, (BedSpot{0, {62, 70}, 90}));
    EXPECT_TRUE(copy("Tray", 1).locked);
    choose("Tray");
    QTest::mouseClick(button("Back in rows"), Qt::LeftButton);
    settle();
    EXPECT_FALSE(copy("Tray", 1).put);
}

TEST_F(Beds, OneAtATimeIsTickedArrangedAndToldInItsOrder) {
    open_kit();
    choose("Foot");
    QTest::mouseClick(tick("One at a time"), Qt::LeftButton, {}, QPoint(8, 8));
    settle();
    ASSERT_TRUE(session->project()->beds.one_at_a_time);
    auto words = [&] {
        QStringList all;
        for (QLabel* label : window->bed_panel()->findChildren<QLabel*>())
            if (label->isVisible()) all << label->text();
        return all.join("\n");
    };
    EXPECT_TRUE(words().contains("in this order: ")) << words().toStdString();
    take("Arrange everything");
    const BedLayout layout = bed_layout(*session);
    EXPECT_GT(layout.beds, 1u) << "35 mm apart they need more";
    for (const PartFinding& f : all_findings(*session->results().evaluation(), session->results().analysis()))
        EXPECT_NE(f.finding.kind, FindingKind::UnderHead) << f.finding.says;
    undo();
    undo();
    EXPECT_FALSE(session->project()->beds.one_at_a_time);
}
