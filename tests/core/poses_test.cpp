// Ways up: the hull by counting, supports by closed formulas, the ranking by a scan over many directions.
#include "bed/poses.h"
#include "check/overhang.h"
#include "mesh/convex_hull.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;

namespace {

std::vector<Pose> poses_of(const TriMesh& mesh, const PoseOptions& options = {}) {
    auto poses = best_poses(mesh, options);
    EXPECT_TRUE(poses) << (poses ? "" : poses.error().text());
    return poses ? *poses : std::vector<Pose>{};
}

/// A T of one piece, 40 long: a plate of 40 x 4 on a web of 8 x 20.
TriMesh table() {
    const double outline[][2] = {{-4, 0}, {4, 0}, {4, 20}, {20, 20}, {20, 24}, {-20, 24}, {-20, 20}, {-4, 20}};
    TriMesh mesh;
    for (double y : {-20.0, 20.0})
        for (const auto& p : outline) mesh.vertices.push_back({p[0], y, p[1]});
    for (uint32_t i = 0; i < 8; ++i) {
        const uint32_t k = (i + 1) % 8;
        mesh.triangles.push_back({i, i + 8, k + 8});
        mesh.triangles.push_back({i, k + 8, k});
    }
    for (const Triangle& t : {Triangle{0, 1, 2}, {0, 2, 7}, {5, 6, 7}, {5, 7, 2}, {5, 2, 3}, {5, 3, 4}}) {
        mesh.triangles.push_back(t);
        mesh.triangles.push_back({t[0] + 8, t[2] + 8, t[1] + 8});
    }
    return mass_properties(mesh).volume_mm3 > 0 ? mesh : test::inside_out(mesh);
}

} // namespace

TEST(ConvexHull, OfACubeAndItsInsideIsTheCube) {
    std::vector<Vec3> points = test::cube(10).vertices;
    for (int i = 0; i < 200; ++i) points.emplace_back(1 + i % 9, 1 + i * 7 % 9, 1 + i * 5 % 8);
    const TriMesh hull = convex_hull(points);
    EXPECT_EQ(hull.vertices.size(), 8u);
    EXPECT_EQ(hull.triangles.size(), 12u);
    EXPECT_NEAR(mass_properties(hull).volume_mm3, 1000, 1e-9) << "facing outward";
    // A ball's points are all corners; Euler: 2 V - 4 facets.
    const TriMesh ball = convex_hull(test::sphere(5, 20).vertices);
    EXPECT_EQ(ball.triangles.size(), 2 * ball.vertices.size() - 4);
}

TEST(ConvexHull, FlatAndEmptyHaveNone) {
    EXPECT_TRUE(convex_hull({}).empty());
    EXPECT_TRUE(convex_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {1, 1, 0}, {3, 2, 0}}).empty());
    EXPECT_TRUE(convex_hull({{0, 0, 0}, {1, 1, 1}, {2, 2, 2}, {3, 3, 3}, {4, 4, 4}}).empty());
    EXPECT_TRUE(convex_hull(std::vector<Vec3>(9, Vec3(1, 2, 3))).empty());
    EXPECT_TRUE(convex_hull({{0, 0, 0}, {1, 0, 0}, {0, 1, 0}, {std::nan(""), 0, 1}}).empty());
}

TEST(ConvexHull, TheOuterOneHoldsAllPointsWithinItsWord) {
    const TriMesh torus = test::torus(20, 6, 400, 60);
    const TriMesh whole = convex_hull(torus.vertices);
    for (double within : {0.1, 0.02}) {
        const TriMesh outer = outer_hull(torus.vertices, within);
        EXPECT_LT(outer.vertices.size(), whole.vertices.size());
        double most = 0;
        for (size_t i = 0; i < outer.triangles.size(); ++i) {
            const Vec3 n = outer.area_vector(i).normalized(), at = outer.corner(i, 0);
            for (const Vec3& p : torus.vertices) most = std::max(most, (p - at).dot(n));
        }
        EXPECT_LE(most, within + 1e-4) << "single precision of the search";
        EXPECT_NEAR(mass_properties(outer).volume_mm3, mass_properties(whole).volume_mm3,
                    within * mass_properties(whole).area_mm2);
    }
    // A flat face of many points is found as it is: a box of tiles.
    std::vector<Vec3> tiles;
    for (int i = 0; i <= 40; ++i)
        for (int j = 0; j <= 40; ++j)
            for (double z : {0.0, 10.0}) tiles.emplace_back(i, j, z);
    const TriMesh box = outer_hull(tiles, 0.02);
    EXPECT_NEAR(mass_properties(box).volume_mm3, 16000, 1e-6);
    // Few points, none, and all in a plane.
    EXPECT_EQ(outer_hull(test::cube(10).vertices, 0.02).vertices.size(), 8u);
    EXPECT_TRUE(outer_hull({}, 0.02).empty());
    std::vector<Vec3> flat;
    for (int i = 0; i < 5000; ++i) flat.emplace_back(i % 70, i / 70, 0);
    EXPECT_TRUE(outer_hull(flat, 0.02).empty());
}

TEST(Poses, ATableIsTurnedOver) {
    const auto poses = poses_of(table());
    ASSERT_FALSE(poses.empty());
    EXPECT_LT((poses[0].up - Vec3(0, 0, -1)).norm(), 1e-6) << "the plate lies on the bed";
    EXPECT_NEAR(poses[0].support_volume_mm3, 0, 1e-6);
    EXPECT_NEAR(poses[0].footprint_mm2, 1600, 1e-6);
    EXPECT_NEAR(poses[0].height_mm, 24, 1e-6);
    EXPECT_FALSE(poses[0].tips_over);
    for (size_t i = 1; i < poses.size(); ++i) {
        EXPECT_GE(poses[i].score, poses[i - 1].score);
        for (size_t k = 0; k < i; ++k) EXPECT_LT(poses[i].up.dot(poses[k].up), std::cos(radians(8.0)));
    }
}

TEST(Poses, StandingComesBeforeLittleSupport) {
    // On an edge or a corner hardly anything hangs, but it would tip: the first stand.
    for (const TriMesh& mesh : {box_mesh({0, 0, 0}, {3, 5, 60}), test::turned(table(), 30, {0, 1, 0})}) {
        const auto poses = poses_of(mesh);
        ASSERT_GE(poses.size(), 3u);
        for (size_t i = 0; i < 3; ++i) EXPECT_FALSE(poses[i].tips_over) << poses[i].up.transpose();
    }
}

TEST(Poses, SupportsUnderATableAreTheRoomBelowIt) {
    PoseOptions all;
    all.best = 100;
    all.candidates = 60;
    // Upright: the plate's two wings of 16 x 40 hang 20 mm above the bed.
    bool upright = false;
    for (const Pose& pose : poses_of(table(), all)) {
        if (pose.up.z() < 0.9999) continue;
        upright = true;
        EXPECT_NEAR(pose.overhang_area_mm2, 1280, 1e-6);
        EXPECT_NEAR(pose.support_volume_mm3, 1280 * 20, 0.1);
        EXPECT_NEAR(pose.footprint_mm2, 320, 1e-6);
    }
    EXPECT_TRUE(upright);
}

TEST(Poses, TheBestOfAWedgeIsAmongTheBestOfABruteScan) {
    // A leaning prism: every direction of a fine grid of turns is measured by the overhang's own sum.
    TriMesh prism = box_mesh({0, 0, 0}, {12, 12, 30});
    for (Vec3& v : prism.vertices) v.x() += v.z() * 0.9;
    double least = 1e30;
    for (int i = 0; i < 24; ++i)
        for (int k = 0; k < 24; ++k) {
            TriMesh turned = test::turned(test::turned(prism, i * 15, {1, 0, 0}), k * 15, {0, 1, 0});
            least = std::min(least, find_overhang(turned, 45).area_mm2);
        }
    const auto poses = poses_of(prism);
    ASSERT_FALSE(poses.empty());
    EXPECT_LE(poses[0].overhang_area_mm2, least + 1e-6);
    EXPECT_FALSE(poses[0].tips_over);
}

TEST(Poses, DoNotDependOnHowThePartWasDrawn) {
    const auto straight = poses_of(table());
    const Vec3 axis = Vec3(1, 2, -1).normalized();
    const auto turned = poses_of(test::moved_by(test::turned(table(), 77, axis), {300, -50, 12}));
    ASSERT_FALSE(straight.empty());
    ASSERT_FALSE(turned.empty());
    EXPECT_NEAR(straight[0].score, turned[0].score, 0.02);
    EXPECT_LT((Eigen::AngleAxisd(radians(77.0), axis) * straight[0].up - turned[0].up).norm(), 0.02);
}

TEST(Poses, WhatIsTooLargeForTheBedComesLast) {
    PoseOptions options;
    options.bed_mm = {100, 100, 200};
    const auto poses = poses_of(box_mesh({0, 0, 0}, {150, 20, 20}), options);
    ASSERT_FALSE(poses.empty());
    EXPECT_TRUE(poses[0].fits_bed) << "it stands";
    EXPECT_NEAR(std::fabs(poses[0].up.x()), 1, 0.05);
}

TEST(Poses, OddMeshesAreNoMatter) {
    EXPECT_FALSE(best_poses(TriMesh()));
    TriMesh sheet;
    sheet.vertices = {{0, 0, 0}, {10, 0, 0}, {0, 10, 0}};
    sheet.triangles = {{0, 1, 2}};
    EXPECT_FALSE(poses_of(sheet).empty()) << "flat: without a hull";
    TriMesh open = test::cube(10);
    open.triangles.resize(9);
    EXPECT_FALSE(poses_of(open).empty());
    TriMesh nothing = sheet;
    nothing.triangles = {{0, 0, 0}};
    for (const Pose& pose : poses_of(nothing)) EXPECT_TRUE(std::isfinite(pose.score)) << "no area";
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(best_poses(test::cube(10), {}, stopped));
}
