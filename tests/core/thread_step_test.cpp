// The thread as a step: joined, cut, gapped on both sides, carried by fits. Volumes against the thread's own, gaps by
// measuring.
#include "made_project.h"
#include "mesh/thread_mesh.h"
#include "project/analysis.h"
#include "shape/mesh_distance.h"

using namespace lp;
using namespace lp::test;

namespace {

json thread(json fields) {
    return step("thread", std::move(fields), "screw");
}
double alone(double major, double pitch, double length, double fit, bool mouths,
             ThreadProfile profile = ThreadProfile::Sharp) {
    ThreadShape s;
    s.major_mm = major, s.pitch_mm = pitch, s.length_mm = length, s.fit_mm = fit, s.mouths = mouths,
    s.profile = profile;
    return mass_properties(make_thread(s)->mesh).volume_mm3;
}

} // namespace

TEST(ThreadStep, StandsOnAHeadAndIsSmallerByItsGap) {
    const Made m = make(
        {step("cylinder", {{"diameter", 18}, {"height", 6}}), thread({{"size", "M10"}, {"length", 15}, {"at_z", 6}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), std::numbers::pi * 81 * 6 + alone(10, 1.5, 15, 0.2, false), 2);
    EXPECT_EQ(m.part().bodies.size(), 1u);
    EXPECT_FALSE(m.part().exact) << "triangles from there on";
    const Made named = make(json::array({thread({{"size", "M10"}, {"gap", 0}})})),
               typed =
                   make(json::array({thread({{"size", ""}, {"diameter", "2 * 5"}, {"pitch", "3 / 2"}, {"gap", 0}})}));
    EXPECT_NEAR(named.volume(), typed.volume(), 1e-9);
}

TEST(ThreadStep, IsCutLargerAndAPairOfTwoGapsStandsApart) {
    const Made m = make_parts(
        {{"Bolt", json::array({thread({{"size", "58x4"}, {"length", 12}, {"profile", "round"}})})},
         {"Ring", json::array({step("cylinder", {{"diameter", 70}, {"height", 12}}),
                               thread({{"size", "58x4"}, {"length", 12}, {"profile", "round"}, {"does", "cut"}})})}});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(1), std::numbers::pi * 35 * 35 * 12 - alone(58, 4, 12, -0.2, true, ThreadProfile::Round), 15);
    const double gap = closest_pair(DistanceTree(*m.part(0).mesh), DistanceTree(*m.part(1).mesh)).distance_mm;
    EXPECT_NEAR(gap, 0.4, 0.02);
}

TEST(ThreadStep, AnotherPartIsOpenedForItByOneSentence) {
    // The ring's thread made from the cup's with a fit: what is grown is the thread itself.
    const Made m =
        make_parts({{"Cup", json::array({thread({{"size", "30x3"}, {"length", 9}, {"profile", "round"}, {"gap", 0}})})},
                    {"Ring", json::array({step("cylinder", {{"diameter", 40}, {"height", 9}}),
                                          step("cut_with", {{"tool", "Cup"}, {"fit", "0.3 mm"}})})}});
    ASSERT_EQ(m.says(), "");
    const double gap = closest_pair(DistanceTree(*m.part(0).mesh), DistanceTree(*m.part(1).mesh)).distance_mm;
    EXPECT_NEAR(gap, 0.3, 0.02);
}

TEST(ThreadStep, SaysWhatCannotBe) {
    auto says = [](json fields) { return make(json::array({thread(std::move(fields))})).says(); };
    EXPECT_NE(says({{"size", "M11"}}).find("M10"), std::string::npos) << "the nearest are named";
    EXPECT_NE(says({{"size", ""}, {"diameter", 10}, {"pitch", 9}}).find("deep"), std::string::npos);
    EXPECT_NE(says({{"size", "nut"}}), "");
    EXPECT_NE(says({{"size", "M10"}, {"does", "cut"}}).find("no body yet"), std::string::npos);
    const Made few = make(json::array({thread({{"size", "M10"}, {"length", 2}})}));
    EXPECT_NE(few.step(0).says.find("1.3 turns"), std::string::npos) << few.step(0).says;
    EXPECT_TRUE(few.step(0).ok);
}
