// Bodies grown and shrunk by a distance.
#include "mesh/grow.h"
#include "mesh/soundness.h"
#include "shape/distance_field.h"
#include "test_meshes.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Orthogonal_k_neighbor_search.h>
#include <CGAL/Search_traits_3.h>
#include <gtest/gtest.h>

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
