// A part with holes and slots goes into another at a fit: what stands in the holes keeps the gap too. Against exact
// distances between the bodies, and volumes by elementary geometry.
#include "made_project.h"
#include "shape/mesh_distance.h"

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A block that the part is put into, larger by 15 on every side.
Made put_in(const json& steps, const std::string& fit) {
    return make_parts({{"Inner", steps},
                       {"Outer",
                        {step("block", {{"size_x", 90}, {"size_y", 70}, {"size_z", 60}, {"at_z", -15}}),
                         step("cut_with", {{"tool", "Inner"}, {"fit", fit}})}}});
}
json cut(const std::string& kind, json fields) {
    fields["does"] = "cut";
    return step(kind, fields, "hole");
}

struct Case {
    const char* name;
    json steps;
};
std::vector<Case> cases() {
    const json b = block(60, 40, 30);
    return {
        {"a slot flush with the bottom", {b, cut("block", {{"size_x", 12}, {"size_y", 40}, {"size_z", 15}})}},
        {"a hole with its ends outside", {b, cut("cylinder", {{"diameter", 10}, {"height", 40}, {"at_z", -5}})}},
        {"a hole as long as the block", {b, cut("cylinder", {{"diameter", 10}, {"height", 30}})}},
        {"a blind hole", {b, cut("cylinder", {{"diameter", 10}, {"height", 30}, {"at_z", 12}})}},
        {"a cavity", {b, cut("sphere", {{"diameter", 16}, {"at_z", 15}})}},
        {"a prism through a corner",
         {b, cut("prism", {{"across", 14}, {"height", 60}, {"at_x", 30}, {"at_y", 20}, {"at_z", -10}})}},
        {"a body cut away",
         {b, step("cylinder", {{"diameter", 10}, {"height", 30}, {"does", "new"}}, "pin"),
          step("cut", {{"from", "b"}, {"what", "pin"}})}},
    };
}

} // namespace

class HolesOfATool : public ::testing::TestWithParam<size_t> {};

TEST_P(HolesOfATool, KeepTheGapEverywhere) {
    const Case c = cases()[GetParam()];
    for (double gap : {0.2, 0.6}) {
        Made m = put_in(c.steps, format_number(gap) + " mm");
        ASSERT_EQ(m.says(), "") << c.name;
        const ClosestPair found =
            closest_pair(DistanceTree(m.part(0).bodies[0].body.mesh()), DistanceTree(m.part(1).bodies[0].body.mesh()));
        EXPECT_NEAR(found.distance_mm, gap, 0.025) << c.name << " at " << gap;
        // Solid, hollow and skin together are the outer block: the skin is about as much as the surface times the gap.
        const double skin = 90 * 70 * 60 - m.volume(0) - m.volume(1), area = m.part(0).mass.area_mm2;
        EXPECT_NEAR(skin, area * gap, 0.12 * area * gap) << c.name << " at " << gap;
    }
}
INSTANTIATE_TEST_SUITE_P(All, HolesOfATool, ::testing::Range<size_t>(0, cases().size()));

TEST(GrownCuts, AHoleThroughStaysAnExactHole) {
    // By its numbers: a pin of 10 - 2 x 0.25 is left standing in the hole, the corners outside are square.
    Made m = put_in({block(60, 40, 30), cut("cylinder", {{"diameter", 10}, {"height", 40}, {"at_z", -5}})}, "0.25 mm");
    ASSERT_EQ(m.says(), "");
    const double pin = pi * 4.75 * 4.75 * 30.5;
    EXPECT_NEAR(m.volume(1), 90 * 70 * 60 - 60.5 * 40.5 * 30.5 + pin, 1e-6);
}
