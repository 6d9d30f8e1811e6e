// A skin over broken meshes against closed volumes: what was broken is gone, what was sound stays where it was.
#include "made_project.h"
#include "mesh/rebuild.h"
#include "mesh/soundness.h"
#include "test_meshes.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

void expect_sound(const TriMesh& mesh, const std::string& what) {
    const Soundness sound = check_soundness(mesh);
    EXPECT_TRUE(sound.closed) << what;
    EXPECT_EQ(sound.self_intersecting->count, 0u) << what;
    EXPECT_EQ(sound.inner_shells.count, 0u) << what;
    EXPECT_FALSE(sound.inside_out) << what;
}
/// Every facet with corners of its own, moved about: slits everywhere, nothing shared.
TriMesh shattered(const TriMesh& mesh, double by, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> shift(-by, by);
    TriMesh loose = soup(mesh);
    for (size_t i = 0; i < loose.triangles.size(); ++i) {
        const Vec3 move(shift(random), shift(random), shift(random));
        for (uint32_t v : loose.triangles[i]) loose.vertices[v] += move;
        if (i % 3 == 0) std::swap(loose.triangles[i][1], loose.triangles[i][2]); // turned as well
    }
    return loose;
}

} // namespace

TEST(Rebuild, ASoundCubeStaysNearlyWhatItIs) {
    const auto made = rebuild_mesh(cube(20));
    ASSERT_TRUE(made) << made.error().text();
    expect_sound(made->mesh, "cube");
    EXPECT_NEAR(made->within_mm, 20 * std::sqrt(3.0) / 100, 1e-9);
    EXPECT_LT(made->largest_mm, made->within_mm / 2);
    EXPECT_NEAR(mass_properties(made->mesh).volume_mm3, 8000, 0.006 * 8000);
}

TEST(Rebuild, ShatteredFacetsBecomeASkin) {
    const TriMesh ball = sphere(15, 40);
    for (double by : {0.03, 0.3}) {
        const auto made = rebuild_mesh(shattered(ball, by, 7));
        ASSERT_TRUE(made) << made.error().text();
        expect_sound(made->mesh, "ball");
        EXPECT_NEAR(mass_properties(made->mesh).volume_mm3 / mass_properties(ball).volume_mm3, 1,
                    by < 0.1 ? 0.02 : 0.1);
    }
    // A hole too wide for the distance: taken larger until something is enclosed.
    TriMesh open = cube(20);
    open.triangles.resize(open.triangles.size() - 1);
    const auto wide = rebuild_mesh(open, {1});
    EXPECT_FALSE(wide) << "half a side is missing";
    EXPECT_NE(wide.error().text().find("enclose nothing"), std::string::npos) << wide.error().text();
    TriMesh slit = soup(ball);
    for (size_t i = 0; i < slit.triangles.size(); ++i) {
        const Vec3 middle = (slit.corner(i, 0) + slit.corner(i, 1) + slit.corner(i, 2)) / 3;
        for (uint32_t v : slit.triangles[i]) slit.vertices[v] = middle + (slit.vertices[v] - middle) * 0.3;
    }
    const auto bridged = rebuild_mesh(slit, {0.4});
    ASSERT_TRUE(bridged) << bridged.error().text();
    EXPECT_GT(bridged->within_mm, 0.4);
    EXPECT_NEAR(mass_properties(bridged->mesh).volume_mm3 / mass_properties(ball).volume_mm3, 1, 0.1);
}

TEST(Rebuild, WhatLiesInsideAndCrossesIsGone) {
    // Two cubes that overlap by an eighth, one of them turned inside out, a third inside, a loose sheet through all.
    TriMesh broken = cube(20);
    append(broken, inside_out(cube(20, Vec3(10, 10, 10))));
    append(broken, cube(4, Vec3(2, 2, 2)));
    const uint32_t n = uint32_t(broken.vertices.size());
    broken.vertices.insert(broken.vertices.end(), {{3, 3, 10}, {17, 3, 10}, {3, 17, 10}});
    broken.triangles.push_back({n, n + 1, n + 2});
    const auto made = rebuild_mesh(broken);
    ASSERT_TRUE(made) << made.error().text();
    expect_sound(made->mesh, "two cubes");
    EXPECT_NEAR(mass_properties(made->mesh).volume_mm3, 2 * 8000 - 1000, 150);
    EXPECT_EQ(check_soundness(made->mesh).shells, 1u);
    TriMesh two = cube(10);
    append(two, cube(10, Vec3(12, 0, 0)));
    const auto apart = rebuild_mesh(two);
    ASSERT_TRUE(apart);
    EXPECT_EQ(check_soundness(apart->mesh).shells, 2u) << "things apart stay apart";
}

TEST(Rebuild, ASlotIsFilledWhereItIsNarrowAlone) {
    TriMesh slotted = cube(20);
    append(slotted, cube(20, Vec3(21, 0, 0)));
    EXPECT_EQ(check_soundness(rebuild_mesh(slotted, {0.3})->mesh).shells, 2u);
    const auto closed = rebuild_mesh(slotted, {1});
    ASSERT_TRUE(closed);
    EXPECT_EQ(check_soundness(closed->mesh).shells, 1u);
    EXPECT_NEAR(mass_properties(closed->mesh).volume_mm3, 41 * 400, 600);
}

TEST(Rebuild, RefusedInWords) {
    EXPECT_FALSE(rebuild_mesh({}));
    EXPECT_FALSE(rebuild_mesh(cube(20), {-1}));
    EXPECT_FALSE(rebuild_mesh(cube(20), {100}));
    const auto fine = rebuild_mesh(cube(20), {0.01});
    ASSERT_FALSE(fine);
    EXPECT_NE(fine.error().text().find("2,000,000 facets"), std::string::npos) << fine.error().text();
    TriMesh sheet;
    sheet.vertices = {{0, 0, 0}, {30, 0, 0}, {0, 30, 0}};
    sheet.triangles = {{0, 1, 2}};
    EXPECT_FALSE(rebuild_mesh(sheet));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(rebuild_mesh(cube(20), {}, stopped));
}
