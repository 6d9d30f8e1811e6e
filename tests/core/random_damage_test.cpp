// Mending against random damage: whatever was done to a sound mesh, it comes back closed, agreeing and nearly as large.
#include "formats/stl.h"
#include "mesh/mend.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <random>

using namespace lp;

namespace {

struct Damage {
    TriMesh mesh;
    size_t removed = 0, turned = 0, doubled = 0;
};

/// Removes single facets, turns a minority over, doubles some, in a random order of facets.
Damage damage(const TriMesh& sound, unsigned seed) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<double> u(0, 1);
    Damage result;
    TriMesh soup = test::soup(sound);
    std::vector<Triangle> kept;
    for (const Triangle& t : soup.triangles) {
        double fate = u(random);
        if (fate < 0.01) {
            ++result.removed;
            continue;
        }
        Triangle facet = t;
        if (fate < 0.2) {
            std::swap(facet[1], facet[2]);
            ++result.turned;
        }
        kept.push_back(facet);
        if (fate > 0.97) {
            kept.push_back(facet);
            ++result.doubled;
        }
    }
    std::shuffle(kept.begin(), kept.end(), random);
    soup.triangles = kept;
    result.mesh = soup;
    return result;
}

} // namespace

TEST(RandomDamage, IsMendedWithTheVolumeKept) {
    for (unsigned seed = 1; seed <= 12; ++seed) {
        TriMesh sound = test::sphere(10, 14, {double(seed), -3, 40});
        double volume = mass_properties(sound).volume_mm3;
        Damage damaged = damage(sound, seed);
        Soundness before = check_soundness(damaged.mesh);
        EXPECT_EQ(before.duplicate.count, damaged.doubled);
        auto mended = mend(damaged.mesh);
        ASSERT_TRUE(mended) << seed;
        EXPECT_EQ(mended->holes_left, 0u);
        Soundness after = check_soundness(test::soup(mended->mesh));
        EXPECT_TRUE(after.closed) << seed;
        EXPECT_EQ(after.inconsistent_edges.count + after.flipped.count + after.duplicate.count, 0u) << seed;
        EXPECT_FALSE(after.inside_out);
        // Single facets of a ball with 28 x 14 fields: filling loses slivers of a few cubic millimetres at most.
        EXPECT_NEAR(mass_properties(mended->mesh).volume_mm3, volume, volume * 0.01) << seed;
    }
}
TEST(RandomDamage, CountsSurviveAFile) {
    Damage damaged = damage(test::sphere(10, 14), 5);
    auto back = read_stl(write_stl_binary(damaged.mesh));
    ASSERT_TRUE(back);
    Soundness here = check_soundness(damaged.mesh), there = check_soundness(*back);
    EXPECT_EQ(here.open_edges.count, there.open_edges.count);
    EXPECT_EQ(here.flipped.count, there.flipped.count);
    EXPECT_EQ(here.duplicate.count, there.duplicate.count);
    EXPECT_EQ(here.holes.count, there.holes.count);
}
TEST(RandomDamage, MendingTwiceChangesNothingMore) {
    for (unsigned seed = 20; seed < 26; ++seed) {
        auto once = mend(damage(test::sphere(10, 12), seed).mesh);
        ASSERT_TRUE(once);
        auto twice = mend(once->mesh);
        ASSERT_TRUE(twice);
        EXPECT_TRUE(twice->cures.empty()) << seed << ": " << (twice->cures.empty() ? "" : twice->cures[0].says);
        EXPECT_EQ(once->mesh.triangles.size(), twice->mesh.triangles.size());
    }
}
