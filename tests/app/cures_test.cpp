// What would cure a finding, tried and offered below it: pressed by key and by digit, undone.
#include "window_test.h"

using namespace lp;

namespace {

class Cured : public lp::Window {
  protected:
    /// A block with a slot of 16 through it: a wide bridge.
    void open_slotted() {
        open_part("Rail", {block(60, 40, 40), block(16, 40, 15, {{"does", "cut"}})}, Stretch::Check);
    }
    size_t findings() { return window->check_panel()->finding_rows().size(); }
};

} // namespace

TEST_F(Cured, ABridgeByThePressOfItsCure) {
    open_slotted();
    ASSERT_EQ(findings(), 1u);
    EXPECT_TRUE(window->check_panel()->cure_buttons().empty()) << "nothing is tried that nobody looks at";
    QTest::mouseClick(window->check_panel()->finding_rows().front(), Qt::LeftButton);
    settle();
    ASSERT_FALSE(window->check_panel()->cure_buttons().empty());
    QPushButton* roof = window->check_panel()->cure_buttons().front();
    EXPECT_EQ(roof->text(), "Pointed roof · top of step 2");
    EXPECT_TRUE(roof->accessibleDescription().contains("from 640 to 0 mm²"))
        << roof->accessibleDescription().toStdString();
    EXPECT_TRUE(roof->visibleRegion().boundingRect().contains(roof->rect())) << "seen whole";
    roof->setFocus();
    press(Qt::Key_Space);
    settle();
    EXPECT_EQ(part("Rail")->steps.size(), 3u);
    EXPECT_EQ(findings(), 0u);
    undo();
    settle();
    EXPECT_EQ(part("Rail")->steps.size(), 2u);
    EXPECT_EQ(findings(), 1u);
    // By its digit, from the view.
    QTest::mouseClick(window->check_panel()->finding_rows().front(), Qt::LeftButton);
    settle();
    window->view()->setFocus();
    press(Qt::Key_1);
    settle();
    EXPECT_EQ(findings(), 0u);
}

TEST_F(Cured, ATowerByABrimThatIsTypedOrPressed) {
    open_part("Stake", nlohmann::json::array({block(4, 4, 120)}), Stretch::Check);
    const auto slender = [&]() -> MarkRow* {
        for (MarkRow* row : window->check_panel()->finding_rows())
            if (row->title() == "Slender") return row;
        return nullptr;
    };
    ASSERT_NE(slender(), nullptr);
    QTest::mouseClick(slender(), Qt::LeftButton);
    settle();
    ASSERT_EQ(window->check_panel()->cure_buttons().size(), 2u);
    QTest::mouseClick(window->check_panel()->cure_buttons().front(), Qt::LeftButton);
    settle();
    EXPECT_EQ(slender(), nullptr);
    EXPECT_EQ(part("Stake")->supports.options.brim_mm, 6);
    // It is seen on the bed, beside the stake, and can be typed there.
    go(Stretch::Bed);
    settle();
    auto brim_in_view = [&] {
        for (const SceneBody& body : window->view()->scene().bodies)
            if (body.support) return bounding_box(body.shape->mesh).sizes().x();
        return 0.0;
    };
    EXPECT_NEAR(brim_in_view(), 16, 0.05);
    auto field = [&] {
        ValueField* found = nullptr;
        for (ValueField* f : window->bed_panel()->findChildren<ValueField*>())
            if (f->accessibleName() == "Brim") found = f;
        return found;
    };
    ASSERT_NE(field(), nullptr);
    type_into(field(), "9");
    settle();
    EXPECT_NEAR(brim_in_view(), 22, 0.05);
    ASSERT_NE(field(), nullptr);
    type_into(field(), "0");
    settle();
    EXPECT_EQ(brim_in_view(), 0);
    undo();
    settle();
    EXPECT_NEAR(brim_in_view(), 22, 0.05);
}

TEST_F(Cured, FeetThatTheFirstLayerClosesAreChamfered) { // act 7 of the layers
    open_part("Flap", nlohmann::json::array({{{"kind", "hinge"}, {"name", "flap"}, {"fields", {{"foot", "plain"}}}}}),
              Stretch::Check);
    MarkRow* closed = nullptr;
    for (MarkRow* row : window->check_panel()->finding_rows())
        if (row->title().startsWith("Closed at the bed")) closed = row;
    ASSERT_NE(closed, nullptr);
    QTest::mouseClick(closed, Qt::LeftButton);
    settle();
    ASSERT_FALSE(window->check_panel()->cure_buttons().empty());
    QPushButton* chamfer = window->check_panel()->cure_buttons().front();
    EXPECT_TRUE(chamfer->text().startsWith("Chamfer the feet")) << chamfer->text().toStdString();
    const double before = volume("Flap");
    chamfer->setFocus();
    press(Qt::Key_Space);
    settle();
    EXPECT_EQ(part("Flap")->steps[0].fields.at("foot").text(), "chamfered");
    EXPECT_LT(volume("Flap"), before);
    for (MarkRow* row : window->check_panel()->finding_rows())
        EXPECT_FALSE(row->title().startsWith("Closed at the bed"));
    undo();
    EXPECT_NEAR(volume("Flap"), before, 1e-9);
}

TEST_F(Cured, AMastLongerThanTheBedComesInTwoHalvesWithPins) { // act 1 of the workshop
    open_part("Mast", nlohmann::json::array({block(40, 20, 350)}), Stretch::Check);
    MarkRow* big = nullptr;
    for (MarkRow* row : window->check_panel()->finding_rows())
        if (row->title() == "Too big") big = row;
    ASSERT_NE(big, nullptr);
    QTest::mouseClick(big, Qt::LeftButton);
    settle();
    ASSERT_FALSE(window->check_panel()->cure_buttons().empty());
    QTest::mouseClick(window->check_panel()->cure_buttons().front(), Qt::LeftButton);
    settle();
    ASSERT_EQ(session->project()->parts.size(), 3u) << said.toStdString();
    EXPECT_TRUE(part("Mast, above"));
    EXPECT_TRUE(part("Mast, pins"));
    for (MarkRow* row : window->check_panel()->finding_rows()) EXPECT_NE(row->title(), "Too big");
    EXPECT_NEAR(volume("Mast") + volume("Mast, above") + volume("Mast, pins"), 40 * 20 * 350, 40 * 20 * 350 * 0.003);
    undo();
    EXPECT_EQ(session->project()->parts.size(), 1u) << "one act, taken back at once";
}
