#include "bed/pose.h"
#include "bed/supports.h"
#include "fit/fits.h"
#include "layers/layer_plan.h"
#include "mesh/soundness.h"
#include "shape/exact_solids.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"

using namespace lp;
using test::cube;

namespace {
TriMesh table() { // a leg of 4 x 4 x 20 under a top of 40 x 40 x 5, in one piece with overlap
    TriMesh mesh = box_mesh({-20, -20, 20}, {20, 20, 25});
    append(mesh, box_mesh({-2, -2, 0}, {2, 2, 20.5}));
    return mesh;
}
LayerPlan plan(const TriMesh& mesh, LayerOptions options = {}, const TriMesh& supports = {}) {
    auto p = plan_layers(mesh, supports, options);
    EXPECT_TRUE(p) << (p ? "" : p.error().text());
    return p.value_or(LayerPlan{});
}
} // namespace

TEST(Slicing, EveryLayerOfACubeIsItsSquare) {
    for (const Region& layer : slice(cube(20), {0.2, 0.2}, 0, 100)) EXPECT_NEAR(region_area_mm2(layer), 400, 1e-3);
}
TEST(Slicing, LayersOfASphereAreCircles) {
    TriMesh ball = test::sphere(10, 90, {0, 0, 10});
    auto layers = slice(ball, {0.5, 0.5}, 0, 40);
    for (size_t k = 0; k < 40; ++k) {
        double z = 0.25 + 0.5 * double(k) - 10, area = std::numbers::pi * (100 - z * z);
        EXPECT_NEAR(region_area_mm2(layers[k]), area, 0.012 * area + 0.3);
    }
}
TEST(Slicing, AVoidIsAHoleAndOverlapsCountOnce) {
    TriMesh mesh = cube(20);
    append(mesh, test::inside_out(cube(10, {5, 5, 5})));
    EXPECT_NEAR(region_area_mm2(slice(mesh, {0.2, 0.2}, 0, 100)[50]), 300, 1e-3);
    TriMesh two = cube(20);
    append(two, cube(20, {10, 0, 0}));
    EXPECT_NEAR(region_area_mm2(slice(two, {0.2, 0.2}, 0, 100)[50]), 600, 1e-3);
}
TEST(Slicing, TheNumberOfLayersCoversTheHeight) {
    EXPECT_EQ((LayerHeights{0.2, 0.2}).count(20), 100u);
    EXPECT_EQ((LayerHeights{0.2, 0.3}).count(20.3), 101u);
    EXPECT_EQ((LayerHeights{0.2, 0.2}).count(0.1), 1u);
    EXPECT_EQ((LayerHeights{0.3, 0.2}).count(1.0), 4u); // 0.2 + 0.3 + 0.3 + a last one
}

TEST(LayerPlan, ASolidCubeOfPlaWeighsWhatTheHandbookSays) {
    LayerOptions options;
    options.infill_percent = 100;
    LayerPlan p = plan(cube(20), options);
    EXPECT_NEAR(p.mass_g, 9.92, 0.005);      // tables.md 12: solid 20 mm cube in PLA
    EXPECT_NEAR(p.filament_mm, 3326.0, 1.0); // tables.md 12: 3.3260 m of 1.75 mm
    EXPECT_EQ(p.layers.size(), 100u);
    EXPECT_TRUE(p.islands.empty());
    EXPECT_LT(plan(cube(20)).mass_g, 9.92 * 0.6); // 15 % infill
}
TEST(LayerPlan, ATableHangsAtItsTopAndAFloatingBlockStartsInMidAir) {
    LayerPlan p = plan(table());
    EXPECT_TRUE(p.islands.empty());
    EXPECT_GT(p.layers[100].unsupported_mm2, 1500);
    EXPECT_EQ(p.layers[50].unsupported_mm2, 0);
    TriMesh two = cube(10);
    append(two, cube(5, {20, 0, 8}));
    LayerPlan q = plan(two);
    ASSERT_EQ(q.islands.size(), 1u);
    EXPECT_EQ(q.islands[0].layer, 40u);
    EXPECT_NEAR(q.islands[0].z_mm, 8, 1e-9);
    EXPECT_NEAR(q.islands[0].area_mm2, 25, 1e-3);
    EXPECT_NEAR(q.islands[0].at.x(), 22.5, 1e-3);
}
TEST(LayerPlan, AWallThatLeansByTheLimitIsCarried) {
    TriMesh lean = cube(20);
    for (Vec3& v : lean.vertices) v.x() += v.z(); // 45 degrees
    for (const Layer& layer : plan(lean).layers) EXPECT_EQ(layer.unsupported_mm2, 0);
    TriMesh more = cube(20);
    for (Vec3& v : more.vertices) v.x() += 2 * v.z(); // 63 degrees
    EXPECT_GT(plan(more).layers[50].unsupported_mm2, 2);
}
TEST(LayerPlan, ARaftCostsPlastic) {
    LayerOptions raft;
    raft.raft_layers = 3;
    EXPECT_GT(plan(cube(20), raft).mass_g, plan(cube(20)).mass_g);
}
TEST(LayerPlan, ForbiddenHeightsAndStopsAreSaid) {
    LayerOptions options;
    options.heights.layer_mm = 0;
    EXPECT_FALSE(plan_layers(cube(20), {}, options));
    EXPECT_FALSE(plan_layers({}, {}, {}));
    Task task;
    task.cancel.cancel();
    auto stopped = plan_layers(cube(20), {}, {}, task);
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
}

TEST(Posts, CarryATableAndKeepTheirDistance) {
    TriMesh mesh = table();
    Supports s = make_supports(mesh, {});
    EXPECT_GT(s.posts.size(), 60u);
    EXPECT_EQ(s.left_out, 0u);
    EXPECT_TRUE(check_soundness(s.mesh).sound());
    DistanceTree part(mesh);
    for (const Post& post : s.posts) {
        EXPECT_NEAR(part.closest(post.tip).distance_mm, 0.2,
                    1e-6); // each tip stands one contact gap below what it carries
        EXPECT_NEAR(post.foot.z(), 0, 1e-9);
    }
    EXPECT_NEAR(closest_pair(part, DistanceTree(s.mesh)).distance_mm, 0.2, 1e-6);
}
TEST(Posts, TakeTheHangingAwayInTheLayerPlan) {
    TriMesh mesh = table();
    Supports s = make_supports(mesh, {});
    double before = 0, after = 0;
    for (const Layer& layer : plan(mesh).layers) before += layer.unsupported_mm2;
    LayerPlan with = plan(mesh, {}, s.mesh);
    for (const Layer& layer : with.layers) after += layer.unsupported_mm2;
    EXPECT_LT(after, 0.25 * before);
    EXPECT_GT(with.mass_g, plan(mesh).mass_g);
}
TEST(Posts, StandOnThePartWhereItIsInTheWay) {
    TriMesh shelf = box_mesh({0, 0, 0}, {30, 30, 5});
    append(shelf, box_mesh({0, 0, 0}, {3, 30, 30}));
    append(shelf, box_mesh({0, 0, 28}, {30, 30, 33}));
    Supports s = make_supports(shelf, {});
    ASSERT_FALSE(s.posts.empty());
    for (const Post& post : s.posts) {
        EXPECT_TRUE(post.on_part);
        EXPECT_NEAR(post.foot.z(), 5.2, 1e-6);
    }
}
TEST(Posts, NothingHangsNoPosts) {
    EXPECT_TRUE(make_supports(cube(20), {}).posts.empty());
}

TEST(Pose, ALaidFaceLiesOnTheBedAndTheMiddleStandsAtTheOrigin) {
    TriMesh mesh = box_mesh({5, 5, 5}, {15, 25, 45});
    Transform pose = pose_transform(mesh, {1, 0, 0}, {0, 0, 0});
    Box3 box = bounding_box(transformed(mesh, pose));
    EXPECT_NEAR(box.min().z(), 0, 1e-9);
    EXPECT_NEAR(box.sizes().z(), 10, 1e-9);
    EXPECT_NEAR(box.center().head<2>().norm(), 0, 1e-9);
}
TEST(Pose, TypedTurnsFollowTheBedsAxes) {
    TriMesh mesh = box_mesh({0, 0, 0}, {10, 20, 40});
    Box3 box = bounding_box(transformed(mesh, pose_transform(mesh, {0, 0, -1}, {90, 0, 0})));
    EXPECT_NEAR(box.sizes().z(), 20, 1e-9);
    EXPECT_NEAR(box.min().z(), 0, 1e-9);
}
TEST(Pose, AFaceIsFoundAgainAfterItsSizeChanged) {
    auto block = [](double size) { return make_block({size, 10, 10}, Transform::Identity(), {9}); };
    auto small = block(10), large = block(37);
    ASSERT_TRUE(small && large);
    for (size_t f = 0; f < 6; ++f) {
        FaceReference reference = make_reference(*small, f, small->tessellation().faces[f].centre);
        auto found = resolve_reference(*large, reference);
        ASSERT_TRUE(found);
        EXPECT_GT(large->tessellation().faces[*found].direction.dot(small->tessellation().faces[f].direction), 0.999);
    }
}
TEST(Pose, ALostFaceIsSaidNotGuessed) {
    auto block = make_block({10, 10, 10}, Transform::Identity(), {9}),
         other = make_block({10, 10, 10}, Transform::Identity(), {10});
    FaceReference reference = make_reference(*block, 0, {0, 0, 0});
    EXPECT_FALSE(resolve_reference(*other, reference));
}

TEST(Fits, TheTypicalPrinterGetsTheTable) {
    EXPECT_DOUBLE_EQ(resolve_fit(0.25, false, {}, PrinterCard{}).gap_mm, 0.25);
}
TEST(Fits, AMeasuredPrinterShiftsEveryGap) {
    PrinterCard card;
    card.outside_growth_mm = 0.13;
    card.hole_shrink_mm = 0.15;
    EXPECT_NEAR(resolve_fit(0.25, false, {}, card).gap_mm, 0.33, 1e-12);                 // printed peg and hole
    EXPECT_NEAR(resolve_fit(0.25, false, {false, {}, false}, card).gap_mm, 0.30, 1e-12); // a bought thing does not grow
    EXPECT_NEAR(resolve_fit(0.25, true, {}, card).gap_mm, 0.25, 1e-12); // a typed gap is meant as typed
    EXPECT_EQ(resolve_fit(0.25, false, {}, card).sum, "0.25 mm fit + 0.03 mm outside + 0.05 mm hole = 0.33 mm");
}
TEST(Fits, TheFactsOfTheTradeAreInTheTable) { // common practice, no published source
    auto fits = standard_fits();
    EXPECT_DOUBLE_EQ(7 + 2 * find_fit(fits, "press")->gap_mm, 7.2); // magnet 7 mm: pocket 7.2, barely fits
    EXPECT_DOUBLE_EQ(find_fit(fits, "free")->gap_mm, 0.5);          // a measured object drops in
    EXPECT_GE(find_fit(fits, "in-place")->gap_mm, 0.3);
    EXPECT_LE(find_fit(fits, "in-place")->gap_mm, 0.5);
}
TEST(Fits, ACardThatMakesNoSenseIsRefused) {
    PrinterCard card;
    card.layer_height_mm = 0;
    EXPECT_TRUE(check_card(card));
    EXPECT_FALSE(check_card(PrinterCard{}));
}
