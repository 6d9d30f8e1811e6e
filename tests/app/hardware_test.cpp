// Holes told by what goes in, bought pieces and screw joints, by pointer and keys in the window.
#include "window_test.h"
#include <numbers>

using namespace lp;

namespace {

class HardwareByHand : public lp::Window {
  protected:
    void open_plate() { open_part("Plate", nlohmann::json::array({block(40, 40, 8)}), Stretch::Shape); }
    /// Clicks the middle of the face that looks up, the highest there is.
    void click_top(const char* name) {
        const PartResult* made = session->results().evaluation()->part(part(name)->id);
        const FaceInfo* best = nullptr;
        for (const StepBody& body : made->bodies)
            for (const FaceInfo& face : body.body.tessellation().faces)
                if (face.direction.z() > 0.99 && (!best || face.centre.z() > best->centre.z())) best = &face;
        ASSERT_TRUE(best);
        QTest::mouseClick(window->view(), Qt::LeftButton, {},
                          window->view()->project(best->centre + Vec3(6, 6, 0)).toPoint());
        QApplication::processEvents();
        ASSERT_EQ(session->workspace().selection().size(), 1u);
    }
    /// By the typed line, as all that can be done lists it.
    std::string last_kind(const char* name) { return part(name)->steps.back().kind; }
};

} // namespace

TEST_F(HardwareByHand, AScrewHoleFollowsTheWordsOfItsSentence) {
    open_plate();
    click_top("Plate");
    say("screw hole here");
    ASSERT_EQ(last_kind("Plate"), "hole_for") << said.toStdString();
    const double whole = 40 * 40 * 8;
    // M3: 3.4 through, and the cone of its head.
    const double r = 1.7, top = 3.46, cone = top - r;
    const double pi = std::numbers::pi;
    EXPECT_NEAR(whole - volume("Plate"), pi * r * r * (8 - cone) + pi * cone * (r * r + r * top + top * top) / 3, 0.05);
    const size_t row = 1;
    type(row, "piece", "M4 x 16 socket head");
    settle();
    const double head = 3.81;
    EXPECT_NEAR(whole - volume("Plate"), pi * (2.25 * 2.25 * 4 + head * head * 4), 0.05) << said.toStdString();
    type(row, "how", "bites");
    settle();
    EXPECT_NEAR(whole - volume("Plate"), pi * 1.65 * 1.65 * 8, 0.05) << "longer than the plate is thick";
    // What no table knows is said below the sentence, with the nearest; the last good body stays.
    type(row, "piece", "M3.7 nut");
    settle();
    EXPECT_NEAR(volume("Plate"), whole, 1e-6) << "without the hole";
    const auto& outcome = session->results().evaluation()->part(part("Plate")->id)->steps[row];
    EXPECT_FALSE(outcome.ok);
    EXPECT_NE(outcome.says.find("nearest"), std::string::npos) << outcome.says;
    undo();
    EXPECT_NEAR(whole - volume("Plate"), pi * 1.65 * 1.65 * 8, 0.05);
}

TEST_F(HardwareByHand, AScrewJointGoesThroughBothBodies) {
    open_part("Housing", {block(40, 40, 6), block(40, 40, 14, {{"at_z", -14.1}, {"does", "new"}})}, Stretch::Shape);
    const double before = volume("Housing");
    click_top("Housing");
    say("screw joint here");
    ASSERT_EQ(last_kind("Housing"), "screw_joint") << said.toStdString();
    const double bitten = before - volume("Housing");
    EXPECT_GT(bitten, 100);
    const auto& outcome = session->results().evaluation()->part(part("Housing")->id)->steps[2];
    EXPECT_TRUE(outcome.ok) << outcome.says;
    EXPECT_NE(outcome.says.find("in the body that holds it"), std::string::npos) << outcome.says;
    type(2, "held_by", "an insert");
    settle();
    EXPECT_GT(before - volume("Housing"), bitten) << "an insert takes more room";
    undo();
    EXPECT_NEAR(before - volume("Housing"), bitten, 1e-6);
}

TEST_F(HardwareByHand, ABoughtPieceIsMadeByItsName) {
    open_plate();
    say("new stand-in");
    const PartId made = session->workspace().active_part();
    ASSERT_TRUE(session->project()->part(made)->stand_in);
    say("bought piece");
    ASSERT_EQ(session->project()->part(made)->steps.back().kind, "bought") << said.toStdString();
    type(session->project()->part(made)->steps.size() - 1, "piece", "608 bearing");
    settle();
    const PartResult* bearing = session->results().evaluation()->part(made);
    ASSERT_TRUE(bearing->mesh);
    EXPECT_NEAR(bearing->mass.volume_mm3, std::numbers::pi * (121 - 16) * 7, 0.5) << "22 by 8 by 7";
}

TEST_F(HardwareByHand, RidgesOverAClickedFaceFollowTheirSentence) {
    open_plate();
    const double whole = 40 * 40 * 8;
    click_top("Plate");
    say("ridges on it");
    ASSERT_EQ(last_kind("Plate"), "ridges") << said.toStdString();
    const double raised = volume("Plate") - whole;
    EXPECT_GT(raised, 200);
    const size_t row = 1;
    type(row, "does", "cut in");
    settle();
    EXPECT_LT(volume("Plate"), whole - 200);
    type(row, "run", "crossed");
    settle();
    EXPECT_LT(volume("Plate"), whole - 100) << said.toStdString();
    undo();
    undo();
    EXPECT_NEAR(volume("Plate") - whole, raised, 1e-6);
    // Higher than they have room for: said, and the plate stays without them.
    type(row, "apart", "60");
    settle();
    EXPECT_NEAR(volume("Plate"), whole, 1e-6);
    EXPECT_FALSE(session->results().evaluation()->part(part("Plate")->id)->steps[row].ok);
}
