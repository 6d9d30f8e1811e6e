// Wall thickness against closed forms of the medial axis: slab, tube, ball, torus, wedge.
#include "check/inspection.h"
#include "check/walls.h"
#include "test_meshes.h"
#include <functional>
#include <gtest/gtest.h>

using namespace lp;

namespace {

constexpr double tau = 2 * std::numbers::pi;

/// A pipe along z, as a polygon of n sides.
TriMesh pipe(double outer_r, double inner_r, double height, int n) {
    TriMesh mesh;
    for (double r : {outer_r, inner_r})
        for (double z : {0.0, height})
            for (int i = 0; i < n; ++i)
                mesh.vertices.push_back({r * std::cos(tau * i / n), r * std::sin(tau * i / n), z});
    auto quad = [&](int a, int b, bool turned) { // between rings a and b
        for (int i = 0; i < n; ++i) {
            const auto j = uint32_t((i + 1) % n), k = uint32_t(i);
            const uint32_t p = uint32_t(a * n), q = uint32_t(b * n);
            Triangle one{p + k, p + j, q + j}, two{p + k, q + j, q + k};
            if (turned) std::swap(one[1], one[2]), std::swap(two[1], two[2]);
            mesh.triangles.push_back(one);
            mesh.triangles.push_back(two);
        }
    };
    quad(0, 1, false); // outside
    quad(2, 3, true);  // inside
    quad(1, 3, false); // top
    quad(0, 2, true);  // bottom
    return mesh;
}

/// A prism whose edge along y, at the origin, is `deg` sharp; flanks 20 long, 30 wide.
TriMesh wedge(double deg) {
    const Vec3 a(20, 0, 0), b(20 * std::cos(radians(deg)), 0, 20 * std::sin(radians(deg))), y(0, 30, 0);
    TriMesh mesh;
    mesh.vertices = {Vec3::Zero(), y, a, a + y, b, b + y};
    mesh.triangles = {{0, 1, 3}, {0, 3, 2}, {0, 5, 1}, {0, 4, 5}, {2, 3, 5}, {2, 5, 4}, {0, 2, 4}, {1, 5, 3}};
    return mass_properties(mesh).volume_mm3 > 0 ? mesh : test::inside_out(mesh);
}

Walls walls_of(const TriMesh& mesh, const WallOptions& options = {}) {
    auto walls = measure_walls(mesh, options);
    EXPECT_TRUE(walls) << (walls ? "" : walls.error().text());
    return walls ? *walls : Walls{};
}

} // namespace

TEST(Walls, FlatWallsAreExact) {
    for (double thick : {0.2, 0.35, 1.0, 2.4, 5.9}) {
        const Walls walls = walls_of(box_mesh({0, 0, 0}, {40, thick, 20}));
        ASSERT_TRUE(walls.least_mm) << thick;
        EXPECT_NEAR(*walls.least_mm, thick, 0.001);
        EXPECT_NEAR(walls.thin_area_mm2, thick < 0.8 ? 2 * 40 * 20 : 0, 1e-6) << "both faces, no rim";
        EXPECT_EQ(walls.thin_places, thick < 0.8 ? 2u : 0u);
    }
    EXPECT_NEAR(*walls_of(test::cube(20)).least_mm, 20, 0.001) << "thicker than the cap: told all the same";
    EXPECT_EQ(walls_of(box_mesh({0, 0, 0}, {40, 0.8, 20})).thin_area_mm2, 0) << "exactly two lines";
}

TEST(Walls, TheSameWhereverAndHoweverItLies) {
    const TriMesh far =
        test::moved_by(test::turned(box_mesh({0, 0, 0}, {40, 0.35, 20}), 37, {1, 2, 3}), {900, -700, 40});
    const Walls walls = walls_of(far);
    EXPECT_NEAR(*walls.least_mm, 0.35, 0.002);
    EXPECT_NEAR(walls.thin_area_mm2, 1600, 1e-6);
}

TEST(Walls, RoundWallsAreWithinAFiftiethOfAMillimetre) {
    for (int n : {64, 200}) { // the faces of a polygon of n sides are cos(pi/n) of the radii away from the axis
        EXPECT_NEAR(*walls_of(pipe(10, 8, 20, n)).least_mm, 2 * std::cos(std::numbers::pi / n), 0.02) << n;
        EXPECT_NEAR(*walls_of(pipe(10, 9.5, 20, n)).least_mm, 0.5 * std::cos(std::numbers::pi / n), 0.02) << n;
    }
    EXPECT_NEAR(*walls_of(test::sphere(2.5, 120)).least_mm, 5, 0.02);
    EXPECT_NEAR(*walls_of(test::torus(20, 2.5, 400, 100)).least_mm, 5, 0.02)
        << "the tube of a torus: its diameter everywhere";
    // Thin everywhere: every facet of the torus reads its diameter, so that the thin area is its surface, 4 pi^2 R r.
    WallOptions below_six;
    below_six.thin_mm = 5.1;
    const double surface = tau * 20 * tau * 2.5;
    EXPECT_NEAR(walls_of(test::torus(20, 2.5, 400, 100), below_six).thin_area_mm2, surface, 0.005 * surface);
    below_six.thin_mm = 4.98;
    EXPECT_EQ(walls_of(test::torus(20, 2.5, 400, 100), below_six).thin_area_mm2, 0);
}

TEST(Walls, AKnifeEdgeIsThinAndACornerIsNot) {
    // The ball in a wedge of angle a that touches x from the edge is 2 x tan(a/2) across: thinner than 0.8 over
    // 0.4 / tan(a/2) of each flank.
    for (double deg : {10.0, 20.0}) {
        WallOptions fine;
        fine.longest_facet_mm = 0.3;
        const double strip = 0.39 / std::tan(radians(deg) / 2) * 30 * 2;
        EXPECT_NEAR(walls_of(wedge(deg), fine).thin_area_mm2, strip, 0.03 * strip) << deg;
    }
    for (double deg : {45.0, 60.0, 75.0, 90.0}) EXPECT_EQ(walls_of(wedge(deg)).thin_area_mm2, 0) << deg;
}

TEST(Walls, TheThinnestOfSeveralIsFoundAndItsPlace) {
    TriMesh comb = box_mesh({0, 0, 0}, {60, 10, 4});
    for (int i = 0; i < 5; ++i)
        append(comb, test::moved_by(box_mesh({0, 0, 6}, {10, 0.5 + 0.3 * i, 16}), {12.0 * i, 0, 0}));
    const Walls walls = walls_of(comb);
    EXPECT_NEAR(*walls.least_mm, 0.5, 0.001);
    EXPECT_LT(walls.least_at.x(), 10);
    EXPECT_GT(walls.least_at.z(), 6);
    EXPECT_NEAR(walls.thin_area_mm2, 2 * 10 * 10, 1e-6) << "0.5 is; 0.8 and more is not";
}

TEST(Walls, DamagedMeshesAreMeasuredAsFarAsThereIsAFarSide) {
    EXPECT_FALSE(walls_of(TriMesh()).least_mm);
    TriMesh one;
    one.vertices = {{0, 0, 0}, {10, 0, 0}, {0, 10, 0}};
    one.triangles = {{0, 1, 2}};
    EXPECT_FALSE(walls_of(one).least_mm) << "a single facet has no far side";
    TriMesh open = box_mesh({0, 0, 0}, {40, 0.35, 20});
    open.triangles.resize(open.triangles.size() - 3);
    EXPECT_NEAR(walls_of(open).least_mm.value_or(0), 0.35, 0.001);
    TriMesh crossing = test::cube(10);
    append(crossing, test::cube(10, {5, 5, 5}));
    EXPECT_TRUE(walls_of(crossing).least_mm);
    EXPECT_TRUE(walls_of(test::soup(test::cube(5))).least_mm) << "nothing welded";
    for (double huge : {1e5, 1e9, 1e30, 1e300}) { // long slivers and places that single precision does not hold
        TriMesh far = box_mesh({0, 0, 0}, {huge, 1, 1});
        const Walls walls = walls_of(far);
        if (huge < 1e6) {
            EXPECT_NEAR(walls.least_mm.value_or(0), 1, 0.02);
        } else {
            EXPECT_FALSE(walls.least_mm) << huge;
        }
    }
}

TEST(Walls, StopOnRequest) {
    Task task;
    task.cancel.cancel();
    EXPECT_FALSE(measure_walls(test::cube(30), {}, task));
}

TEST(Walls, AnInspectionSaysWhereAndHowThin) {
    const Inspection thin = inspect(box_mesh({0, 0, 0}, {40, 0.35, 20}), {.walls = true});
    ASSERT_TRUE(thin.walls);
    EXPECT_NEAR(thin.walls->thin_area_mm2, 1600, 1e-6);
    auto found = std::find_if(thin.findings.begin(), thin.findings.end(),
                              [](const Finding& f) { return f.kind == FindingKind::Thin; });
    ASSERT_NE(found, thin.findings.end());
    EXPECT_NE(found->says.find("0.35 mm"), std::string::npos) << found->says;
    EXPECT_NE(found->says.find("less than the nozzle"), std::string::npos) << found->says;
    // A finer nozzle prints it as two lines.
    for (const Finding& f : inspect(box_mesh({0, 0, 0}, {40, 0.52, 20}), {.nozzle_mm = 0.25, .walls = true}).findings)
        EXPECT_NE(f.kind, FindingKind::Thin) << f.says;
    EXPECT_FALSE(inspect(test::cube(10)).walls) << "only where they are asked for";
}

TEST(Standing, ATallThinPartIsSlender) {
    auto slender = [](const TriMesh& mesh) {
        for (const Finding& f : inspect(mesh).findings)
            if (f.kind == FindingKind::Slender) return f.says;
        return std::string();
    };
    EXPECT_NE(slender(box_mesh({0, 0, 0}, {2, 2, 150})).find("150 mm tall on a foot 2 mm wide"), std::string::npos);
    EXPECT_NE(slender(test::turned(box_mesh({0, 0, 0}, {1, 60, 40}), 30, {0, 0, 1})), "")
        << "a wall alone, whichever way it runs";
    EXPECT_EQ(slender(box_mesh({0, 0, 0}, {10, 10, 150})), "");
    EXPECT_EQ(slender(box_mesh({0, 0, 0}, {0.2, 0.2, 4.9})), "") << "too low to be reached";
}

namespace {
/// Largest difference of the mapped values from what a place should have, over facets that have all three.
double worst_of(const WallMap& map, const std::function<std::optional<double>(const Vec3&)>& should) {
    double worst = 0;
    for (size_t i = 0; i < map.facets.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) {
            const auto wanted = should(map.facets.corner(i, k));
            if (wanted) worst = std::max(worst, std::fabs(map.mm[3 * i + size_t(k)] - *wanted));
        }
    return worst;
}
} // namespace

TEST(WallMap, ASlabIsEvenUpToItsRim) {
    auto map = map_walls(box_mesh({0, 0, 0}, {40, 1.2, 20}));
    ASSERT_TRUE(map);
    ASSERT_EQ(map->mm.size(), 3 * map->facets.triangles.size());
    double measured = 0;
    for (size_t i = 0; i < map->facets.triangles.size(); ++i) {
        const Vec3 area = map->facets.area_vector(i) / 2;
        if (std::fabs(area.y()) < 0.9 * area.norm()) continue; // of the rim
        measured += area.norm();
        for (size_t k = 0; k < 3; ++k) EXPECT_NEAR(map->mm[3 * i + k], 1.2, 0.001);
    }
    EXPECT_NEAR(measured, 2 * 40 * 20, 1e-6) << "parted facets cover the same surface";
}

TEST(WallMap, FollowsClosedFormsOfTheMedialAxis) {
    // A ball that touches both flanks of a wedge, s away from its edge along them, is 2 s tan(a / 2) wide.
    auto sharp = map_walls(wedge(20), {.longest_facet_mm = 0.5});
    ASSERT_TRUE(sharp);
    EXPECT_LT(worst_of(*sharp,
                       [](const Vec3& p) -> std::optional<double> {
                           if (p.y() < 2 || p.y() > 28 || p.x() < 1 || p.x() > 14) return std::nullopt;
                           return 2 * std::hypot(p.x(), p.z()) * std::tan(radians(10.0));
                       }),
              0.1); // corners take the mean of facets half a millimetre long round them
    auto tube = map_walls(pipe(10, 8.5, 20, 200));
    ASSERT_TRUE(tube);
    EXPECT_LT(worst_of(*tube,
                       [](const Vec3& p) -> std::optional<double> {
                           const double r = p.head<2>().norm();
                           if (p.z() < 1 || p.z() > 19 || std::fabs(r - 9.25) < 0.7) return std::nullopt;
                           return 1.5;
                       }),
              0.02);
}

TEST(WallMap, WhatIsThickerThanTheCapHasNoValue) {
    auto map = map_walls(test::cube(20));
    ASSERT_TRUE(map);
    for (float mm : map->mm) EXPECT_EQ(mm, -1);
    EXPECT_TRUE(map_walls(TriMesh())->mm.empty());
    Task task;
    task.cancel.cancel();
    EXPECT_FALSE(map_walls(test::cube(20), {}, task));
}
