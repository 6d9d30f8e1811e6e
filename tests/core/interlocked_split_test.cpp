// Halves that hold each other, against closed formulas; the gap between them as the ledger measures it.
#include "made_project.h"
#include "shape/mesh_distance.h"
#include <gmock/gmock.h>
#include <numbers>

using namespace lp;
using namespace lp::test;
using testing::HasSubstr;

namespace {

double volume_of(const Made& m, size_t body) {
    return m.part().bodies.at(body).body.mass().volume_mm3;
}

json split(const json& more) {
    json fields{{"distance", "20 mm"}, {"wide", "10 mm"}, {"deep", "6 mm"}, {"fit", "0.2 mm"}};
    fields.update(more);
    return step("interlocked_split", fields);
}

} // namespace

TEST(InterlockedSplit, ADovetailHasItsGapAllRound) {
    const Made m = make({block(60, 24, 40), split({{"goes", "either way"}})});
    ASSERT_EQ(m.says(), "");
    ASSERT_EQ(m.part().bodies.size(), 2u);
    const double lean = std::tan(15 * std::numbers::pi / 180), tail = 6 * (10 + 6 * lean);
    EXPECT_NEAR(volume_of(m, 0), 60 * 24 * 20 + 24 * tail, 1e-3);
    // Wider by the gap square to its leaning sides, deeper by it.
    const double slant = 0.2 * std::sqrt(1 + lean * lean), socket = 6.2 * (10 + 2 * slant + 6.2 * lean);
    EXPECT_NEAR(volume_of(m, 1), 60 * 24 * 20 - 24 * socket, 1e-3);
    EXPECT_TRUE(m.part().bodies[0].body.is_exact() && m.part().bodies[1].body.is_exact());
    EXPECT_THAT(m.step(1).says, HasSubstr("0.2 mm free a face"));
    EXPECT_THAT(m.step(1).says, HasSubstr("either side"));
    // Measured between the triangles of both: a place on the middle of a leaning side.
    const Vec3 side(5 + 3 * lean, 0, 23);
    const DistanceTree upper(m.part().bodies[1].body.mesh());
    EXPECT_NEAR(upper.closest(side).distance_mm, 0.2, 1e-3);
}

TEST(InterlockedSplit, OneWayItEndsBeforeTheFarSide) {
    const Made m = make({block(60, 24, 40), split(json::object())});
    ASSERT_EQ(m.says(), "");
    const double lean = std::tan(15 * std::numbers::pi / 180), tail = 6 * (10 + 6 * lean);
    EXPECT_NEAR(volume_of(m, 0), 60 * 24 * 20 + (24 - 3) * tail, 1e-3) << "half its depth before the far side";
    EXPECT_THAT(m.step(1).says, HasSubstr("one way only"));
}

TEST(InterlockedSplit, TonguesAndLaps) {
    const Made tongue = make({block(60, 24, 40), split({{"joint", "tongue"}, {"goes", "either way"}})});
    ASSERT_EQ(tongue.says(), "");
    EXPECT_NEAR(volume_of(tongue, 0), 60 * 24 * 20 + 24 * 60, 1e-3);
    EXPECT_NEAR(volume_of(tongue, 1), 60 * 24 * 20 - 24 * 10.4 * 6.2, 1e-3);
    const Made lap = make({block(60, 24, 40), split({{"joint", "lap"}})});
    ASSERT_EQ(lap.says(), "");
    EXPECT_NEAR(volume_of(lap, 0), 60 * 24 * 20 + 30 * 24 * 6, 1e-3);
    EXPECT_NEAR(volume_of(lap, 1), 60 * 24 * 20 - 30.2 * 24 * 6.2, 1e-3);
    // Across the block: a quarter turn.
    const Made turned =
        make({block(60, 24, 40), split({{"joint", "tongue"}, {"turn", "90 deg"}, {"goes", "either way"}})});
    ASSERT_EQ(turned.says(), "");
    EXPECT_NEAR(volume_of(turned, 0), 60 * 24 * 20 + 60 * 60, 1e-3);
}

TEST(InterlockedSplit, AskedForWhereItCannotBeItSaysSo) {
    EXPECT_THAT(make({block(60, 24, 40), split({{"wide", "58 mm"}})}).says(), HasSubstr("no wall left"));
    EXPECT_THAT(make({block(60, 24, 40), split({{"distance", "90 mm"}})}).says(), HasSubstr("misses"));
    EXPECT_THAT(make({block(60, 24, 40), split({{"joint", "lap"}, {"aside", "40 mm"}})}).says(), HasSubstr("past"));
    EXPECT_NE(make({block(60, 24, 40), split({{"deep", "-3 mm"}})}).says(), "");
    EXPECT_NE(make({block(60, 24, 40), split({{"what", "nobody"}})}).says(), "");
}

TEST(InterlockedSplit, AHookGoesWithItsHalf) {
    const json hook = step("snap_hook", {{"on", "top of b"}, {"at_x", "30 mm"}, {"at_y", "12 mm"}});
    for (const char* kind : {"interlocked_split", "pinned_split"}) {
        const Made m = make({block(60, 24, 40), hook, step(kind, {{"distance", "20 mm"}})});
        ASSERT_EQ(m.says(), "");
        EXPECT_EQ(m.part().bodies.at(0).bends.size(), 0u) << kind;
        EXPECT_EQ(m.part().bodies.at(1).bends.size(), 1u) << kind;
    }
}
