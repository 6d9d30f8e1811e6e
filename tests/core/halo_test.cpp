// Bodies grown and shrunk by a distance.
#include "mesh/collapse_log.h"
#include "mesh/grow.h"
#include "mesh/halo_octree.h"
#include "mesh/halo_thin_out.h"
#include "mesh/soundness.h"
#include "shape/distance_field.h"
#include "test_meshes.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Orthogonal_k_neighbor_search.h>
#include <CGAL/Search_traits_3.h>
#include <gtest/gtest.h>
#include <random>

using namespace lp;
using std::numbers::pi;

namespace {
bool clean(const TriMesh& mesh) {
    Soundness sound = check_soundness(mesh);
    return sound.closed && sound.inconsistent_edges.count == 0 && sound.nonmanifold_edges.count == 0 &&
           sound.self_intersecting && sound.self_intersecting->count == 0 && !sound.inside_out;
}
} // namespace

TEST(Halo, ABoxGrowsByTheFormulaOfSteiner) {
    // J. Steiner: V + A g + M g^2 + 4/3 pi g^3, with M = pi (a + b + c) for a box.
    const double a = 20, b = 15, c = 10;
    for (double g : {0.05, 0.3, 1.0, 3.0}) {
        auto grown = grow_mesh(box_mesh({0, 0, 0}, {a, b, c}), g);
        ASSERT_TRUE(grown) << grown.error().text();
        double area = 2 * (a * b + b * c + c * a);
        double want = a * b * c + area * g + pi * (a + b + c) * g * g + 4 * pi / 3 * g * g * g;
        MassProperties mass = mass_properties(grown->mesh);
        EXPECT_NEAR(mass.volume_mm3, want, mass.area_mm2 * 0.01) << g; // a hundredth of a millimetre all over
        EXPECT_LE(grown->largest_deviation_mm, 0.02) << g;
        EXPECT_TRUE(clean(grown->mesh)) << g;
        Box3 box = bounding_box(grown->mesh);
        EXPECT_LT((box.min() + Vec3::Constant(g)).norm(), 0.03);
    }
}

TEST(Halo, ItKeepsItsDistanceFromEveryPlaceByAnotherLibrarysTree) {
    // A body that is not convex, its shells overlapping. The check goes by a kd-tree over dense samples (CGAL).
    using K = CGAL::Exact_predicates_inexact_constructions_kernel;
    using Search = CGAL::Orthogonal_k_neighbor_search<CGAL::Search_traits_3<K>>;
    TriMesh body = box_mesh({0, 0, 0}, {12, 9, 6});
    append(body, box_mesh({6, 3, 3}, {18, 7, 12}));
    const double g = 0.4, spacing = 0.06;
    auto grown = grow_mesh(body, g);
    ASSERT_TRUE(grown);
    EXPECT_TRUE(clean(grown->mesh));
    std::vector<K::Point_3> samples;
    DistanceField field(body);
    for (size_t i = 0; i < body.triangles.size(); ++i) {
        const Vec3 &a = body.corner(i, 0), &b = body.corner(i, 1), &c = body.corner(i, 2);
        int n = int(std::ceil(std::max((b - a).norm(), (c - a).norm()) / spacing));
        for (int u = 0; u <= n; ++u)
            for (int v = 0; v + u <= n; ++v) {
                Vec3 p = a + (b - a) * u / double(n) + (c - a) * v / double(n);
                samples.emplace_back(p.x(), p.y(), p.z());
            }
    }
    Search::Tree tree(samples.begin(), samples.end());
    double least = 1e9, most = 0;
    for (const Vec3& v : grown->mesh.vertices) {
        Search search(tree, K::Point_3(v.x(), v.y(), v.z()), 1);
        double d = std::sqrt(search.begin()->second);
        least = std::min(least, d);
        most = std::max(most, d);
    }
    EXPECT_GT(least, g - 0.02);
    EXPECT_LT(most, std::hypot(g + 0.02, spacing)); // a sample is at most half a spacing aside
}

TEST(Halo, ASlotNarrowerThanTwiceTheGapCloses) {
    TriMesh body = box_mesh({0, 0, 0}, {20, 10, 4});
    append(body, box_mesh({0, 10.5, 0}, {20, 20, 4}));
    auto grown = grow_mesh(body, 0.4);
    ASSERT_TRUE(grown);
    EXPECT_EQ(check_soundness(grown->mesh).shells, 1u);
    auto apart = grow_mesh(body, 0.15);
    ASSERT_TRUE(apart);
    EXPECT_EQ(check_soundness(apart->mesh).shells, 2u);
}

TEST(Halo, ShrinkingABoxLeavesASmallerBox) {
    auto smaller = grow_mesh(box_mesh({0, 0, 0}, {20, 15, 10}), -2);
    ASSERT_TRUE(smaller);
    EXPECT_NEAR(mass_properties(smaller->mesh).volume_mm3, 16 * 11 * 6, 3);
    EXPECT_TRUE(clean(smaller->mesh));
    auto nothing = grow_mesh(box_mesh({0, 0, 0}, {20, 15, 10}), -5.5);
    ASSERT_FALSE(nothing);
    EXPECT_NE(nothing.error().sentence.find("Nothing is left"), std::string::npos);
}

TEST(Halo, AnotherGapAlongAnAxis) {
    auto grown = grow_mesh_along(box_mesh({0, 0, 0}, {10, 10, 10}), 0.3, 1.2, Vec3::UnitZ());
    ASSERT_TRUE(grown) << grown.error().text();
    Box3 box = bounding_box(grown->mesh);
    EXPECT_NEAR(box.max().x(), 10.3, 0.02);
    EXPECT_NEAR(box.max().z(), 11.2, 0.03);
    EXPECT_TRUE(clean(grown->mesh));
}

TEST(Halo, OpenEmptyTinyAndStoppedAreSaid) {
    TriMesh open = box_mesh({0, 0, 0}, {5, 5, 5});
    open.triangles.pop_back();
    ASSERT_FALSE(grow_mesh(open, 0.3));
    EXPECT_NE(grow_mesh(open, 0.3).error().advice.find("Mend"), std::string::npos);
    EXPECT_FALSE(grow_mesh({}, 0.3));
    EXPECT_FALSE(grow_mesh(box_mesh({0, 0, 0}, {5, 5, 5}), 0));
    EXPECT_FALSE(grow_mesh(box_mesh({0, 0, 0}, {5, 5, 5}), std::nan("")));
    EXPECT_FALSE(grow_mesh(box_mesh({0, 0, 0}, {5, 5, 5}), 1000));
    Task task;
    task.cancel.cancel();
    auto stopped = grow_mesh(box_mesh({0, 0, 0}, {5, 5, 5}), 0.3, {}, task);
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
}
TEST(Grow, TheSameThingElsewhereIsGrownOnceAndStandsThere) {
    // Two balls of 3,000 facets, one moved: the same surface, moved; a third of another size is grown anew.
    TriMesh ball = test::sphere(6, 40);
    ASSERT_GT(ball.triangles.size(), 2000u);
    auto first = grow_mesh(ball, 0.4);
    ASSERT_TRUE(first);
    const Vec3 shift(31.25, -7.5, 2.0);
    auto second = grow_mesh(test::moved_by(ball, shift), 0.4);
    ASSERT_TRUE(second);
    ASSERT_EQ(second->mesh.triangles.size(), first->mesh.triangles.size());
    for (size_t i = 0; i < first->mesh.vertices.size(); i += 17)
        EXPECT_LT((second->mesh.vertices[i] - first->mesh.vertices[i] - shift).norm(), 1e-9);
    EXPECT_NEAR(mass_properties(second->mesh).volume_mm3, mass_properties(first->mesh).volume_mm3, 1e-6);
    auto other = grow_mesh(test::moved_by(test::sphere(6.01, 40), shift), 0.4);
    ASSERT_TRUE(other);
    EXPECT_GT(mass_properties(other->mesh).volume_mm3, mass_properties(first->mesh).volume_mm3 + 1);
}
TEST(Grow, CollapsesAreTakenBackOnlyWhereTheyCross) {
    // Collapses kept in order: the last one of a facet goes, with what rests on it, and nothing else.
    halo::CollapseLog log;
    std::vector<Triangle> now{{0, 1, 2}, {2, 1, 3}, {4, 5, 6}, {7, 8, 9}};
    std::vector<char> gone(4, 0);
    auto collapse = [&](uint32_t facet, const Triangle& after, bool removed) {
        log.changes(facet, now[facet]);
        now[facet] = after;
        gone[facet] = removed;
    };
    const auto begun = now;
    log.begin_collapse(); // 0: two facets
    collapse(0, {0, 1, 3}, false);
    collapse(1, {3, 1, 3}, true);
    log.begin_collapse(); // 1: elsewhere
    collapse(2, {4, 5, 7}, false);
    log.begin_collapse(); // 2: rests on the first by facet 0, and reaches facet 3
    collapse(0, {9, 1, 3}, false);
    collapse(3, {7, 8, 3}, false);
    EXPECT_EQ(log.take_back({1}, 1, now, gone), 2u);
    EXPECT_EQ(now[0], begun[0]);
    EXPECT_EQ(now[1], begun[1]);
    EXPECT_EQ(now[3], begun[3]);
    EXPECT_FALSE(gone[1]);
    EXPECT_EQ(now[2], (Triangle{4, 5, 7})) << "far away it stays as it is";
    EXPECT_EQ(log.take_back({0, 1}, 8, now, gone), 0u);
    EXPECT_EQ(log.take_back({2}, 1, now, gone), 1u);
    EXPECT_EQ(now, begun);
}

TEST(Grow, WhereThinningLetsFacetsCrossItIsTakenBackThere) {
    // Heaps of boxes that pass through each other: after thinning, most have facets that cross (12 pairs at the mean).
    std::mt19937 random(1);
    std::uniform_real_distribution<double> u(0, 1);
    for (int k = 0; k < 6; ++k) {
        TriMesh heap;
        for (int i = 0; i < 14; ++i) {
            const TriMesh box = box_mesh({0, 0, 0}, {0.3 + u(random), 1 + 3 * u(random), 3 * u(random) + 0.5});
            const TriMesh turned = test::turned(box, 360 * u(random), Vec3(u(random), u(random), u(random) + 0.1));
            append(heap, test::moved_by(turned, {6 * u(random), 6 * u(random), 6 * u(random)}));
        }
        const DistanceField field(heap);
        halo::OctreeOptions coarse;
        coarse.distance_mm = 0.5;
        coarse.tolerance_mm = 0.02;
        coarse.finest_mm = 0.02;
        halo::Octree octree(heap, field, coarse);
        auto raw = octree.surface({});
        ASSERT_TRUE(raw);
        for (double limit : {0.02, 0.1, 0.3}) {
            const TriMesh light = halo::thin_out(*raw, field, {0.5, false, limit}, {});
            EXPECT_TRUE(clean(light)) << k << ", " << limit;
            EXPECT_LT(light.triangles.size(), raw->triangles.size() / 2) << "and everywhere else it stays thin";
            EXPECT_NEAR(mass_properties(light).volume_mm3, mass_properties(*raw).volume_mm3,
                        mass_properties(*raw).area_mm2 * limit);
        }
    }
}
