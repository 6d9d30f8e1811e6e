// Pointed roofs: volumes by elementary geometry, and nothing hangs after them.
#include "check/overhang.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "project/analysis.h"

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A block of 60 x 40 x 30 on the ground with a slot through it along y, `wide` across, its roof at z = 15.
json slotted(double wide) {
    return {block(60, 40, 30),
            step("block", {{"size_x", wide}, {"size_y", 40}, {"size_z", 15}, {"does", "cut"}}, "slot")};
}
json with(json steps, const json& more) {
    steps.push_back(more);
    return steps;
}
json roof(const json& fields) {
    return step("pointed_roof", fields, "roof");
}
/// A block with a hole of 12 across along y, its axis at z = 15.
json bored() {
    return {block(40, 40, 30),
            step("cylinder",
                 {{"diameter", 12}, {"height", 40}, {"from", "centre"}, {"at_z", 15}, {"along", "y"}, {"does", "cut"}},
                 "bore")};
}
double hangs(const Made& m, double limit) {
    return find_overhang(m.body().mesh(), limit).area_mm2;
}

} // namespace

TEST(PointedRoof, TakesATriangleFromASlotsRoof) {
    for (double wide : {6.0, 14.0}) {
        Made before = make(slotted(wide));
        ASSERT_EQ(before.says(), "");
        EXPECT_NEAR(hangs(before, 45), wide * 40, 1e-6);
        for (double slope : {45.0, 30.0}) {
            Made after = make(with(slotted(wide), roof({{"face", "top of slot"}, {"slope", slope}})));
            ASSERT_EQ(after.says(), "");
            // Half of width by height, along the slot.
            const double high = wide / 2 / std::tan(radians(slope));
            EXPECT_NEAR(before.volume() - after.volume(), wide * high / 2 * 40, 1e-6) << wide << ", " << slope;
            EXPECT_NEAR(hangs(after, 45.01), 0, 1e-9) << wide << ", " << slope;
            EXPECT_TRUE(check_soundness(after.body().mesh()).sound());
        }
        // Cut flat: the upper third of the triangle stays, a ninth of its area.
        Made flat = make(with(slotted(wide), roof({{"face", "top of slot"}, {"form", "cut flat"}})));
        ASSERT_EQ(flat.says(), "");
        EXPECT_NEAR(before.volume() - flat.volume(), wide * wide / 4 * 40 * 8 / 9, 1e-6);
        EXPECT_NEAR(hangs(flat, 45.01), wide / 3 * 40, 1e-6) << "a third of the width";
    }
}

TEST(PointedRoof, TakesAShortSlotByTheWallsThatHoldIt) {
    // Wider than it is long: the longer edges are those of the open ends.
    json steps{block(60, 10, 30),
               step("block", {{"size_x", 24}, {"size_y", 10}, {"size_z", 10}, {"does", "cut"}}, "slot")};
    Made before = make(steps), after = make(with(steps, roof({{"face", "top of slot"}})));
    ASSERT_EQ(after.says(), "");
    EXPECT_NEAR(before.volume() - after.volume(), 24 * 12 / 2 * 10, 1e-6);
    EXPECT_NEAR(hangs(after, 45.01), 0, 1e-9);
    // A pocket closed all round hangs between its nearer walls.
    json pocket{block(60, 40, 30),
                step("block", {{"size_x", 20}, {"size_y", 8}, {"size_z", 10}, {"does", "cut"}}, "slot")};
    Made closed = make(pocket), pointed = make(with(pocket, roof({{"face", "top of slot"}})));
    ASSERT_EQ(pointed.says(), "");
    EXPECT_NEAR(closed.volume() - pointed.volume(), 8 * 4 / 2 * 20, 1e-6);
}

TEST(PointedRoof, MakesADropOfALyingHole) {
    Made before = make(bored());
    ASSERT_EQ(before.says(), "");
    EXPECT_GT(hangs(before, 45), 0.9 * 12 * pi / 4 * 40) << "a quarter of the wall hangs beyond 45 degrees";
    Made after = make(with(bored(), roof({{"face", "side of bore"}})));
    ASSERT_EQ(after.says(), "");
    EXPECT_NEAR(hangs(after, 45.5), 0, 1e-6);
    // Tangents at 45 degrees: the kite of two right triangles with legs r less the quarter disc, r^2 (1 - pi / 4); a
    // hair steeper it is a little more.
    const double drop = 36 * (1 - pi / 4) * 40;
    EXPECT_GT(before.volume() - after.volume(), drop);
    EXPECT_LT(before.volume() - after.volume(), 1.35 * drop);
    Made flat = make(with(bored(), roof({{"face", "side of bore"}, {"form", "cut flat"}})));
    ASSERT_EQ(flat.says(), "");
    EXPECT_LT(before.volume() - flat.volume(), before.volume() - after.volume());
    EXPECT_NEAR(hangs(flat, 45.5), 2 * (6 * (std::sqrt(2.0) - 1)) * 40, 0.2 * 200)
        << "2 r (sqrt 2 - 1) wide, from tables of roofs by geometry";
    // Another way up: to the side the drop points there.
    Made side = make(with(bored(), roof({{"face", "side of bore"}, {"up", "-x"}})));
    ASSERT_EQ(side.says(), "");
    EXPECT_NEAR(side.volume(), after.volume(), 1e-3);
}

TEST(PointedRoof, SaysWhatItCannotRoof) {
    EXPECT_NE(make(with(bored(), roof({{"face", "side of bore"}, {"up", "y"}}))).says().find("runs up"),
              std::string::npos);
    EXPECT_NE(make({step("cylinder", {{"diameter", 20}, {"height", 30}, {"along", "x"}}, "rod"),
                    roof({{"face", "side of rod"}})})
                  .says()
                  .find("outside of a round"),
              std::string::npos);
    EXPECT_NE(make({block(30, 6, 20), roof({{"face", "top of b"}})}).says().find("flat roof"), std::string::npos)
        << "a rib's top is no roof";
    EXPECT_NE(make({step("sphere", {{"diameter", 20}}, "ball"), roof({{"face", "side of ball"}})}).says(), "");
    EXPECT_NE(make(with(slotted(10), roof(json::object()))).says().find("not said"), std::string::npos);
    EXPECT_NE(make(with(slotted(10), roof({{"face", "top of slot"}, {"slope", 5}}))).says(), "");
}

TEST(PointedRoof, GrowsWithItsPartByTheGapOnly) {
    // The halo of a slotted block with a pointed slot: a thing cut with it is opened by the gap everywhere. Measured by
    // the volume between: the slopes move by the gap along their normals.
    Made m = make_parts({{"Peg", with(slotted(12), roof({{"face", "top of slot"}}))},
                         {"Holder", {block(90, 70, 50), step("cut_with", {{"tool", "Peg"}, {"fit", "0.5 mm"}})}}});
    ASSERT_EQ(m.says(), "");
    const DistanceTree peg(m.part(0).bodies[0].body.mesh());
    // The ridge of what stands in the slot, as far from the peg's slopes as the gap: 15 + 6 - 0.5 * sqrt 2.
    double ridge = -1e9;
    for (const Vec3& v : m.part(1).bodies[0].body.mesh().vertices)
        if (std::fabs(v.x()) < 0.01 && std::fabs(v.y()) < 20.001 && v.z() < 25) ridge = std::max(ridge, v.z());
    EXPECT_NEAR(ridge, 21 - 0.5 * std::sqrt(2.0), 0.01);
    for (const Vec3& v : m.part(1).bodies[0].body.mesh().vertices)
        if (std::fabs(v.x()) < 5.9 && std::fabs(v.y()) < 19 && v.z() > 1 && v.z() < 22) {
            EXPECT_NEAR(peg.closest(v).distance_mm, 0.5, 0.01) << v.transpose();
        }
}
