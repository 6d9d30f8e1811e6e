#include "mesh/combine.h"
#include "mesh/soundness.h"
#include "shape/exact_boolean.h"
#include "shape/exact_solids.h"
#include "shape/mesh_distance.h"
#include "shape/ray_scene.h"
#include "test_meshes.h"
#include <random>

using namespace lp;
using std::numbers::pi;

namespace {
Transform at(double x, double y, double z) {
    Transform t = Transform::Identity();
    t.translate(Vec3(x, y, z));
    return t;
}
Body must(Expected<Body> body) {
    EXPECT_TRUE(body) << (body ? "" : body.error().text());
    return body.value_or(Body());
}
} // namespace

// Mensuration formulas: ../shared/reference/tables.md 10 and any handbook.
TEST(ExactSolids, VolumesAndAreasFollowTheFormulas) {
    EXPECT_NEAR(must(make_block({20, 30, 40}, at(1, 2, 3), {1})).mass().volume_mm3, 24000, 1e-6);
    Body cylinder = must(make_cylinder(3, 10, at(0, 0, 0), {2}));
    EXPECT_NEAR(cylinder.mass().volume_mm3, pi * 9 * 10, 1e-6);
    EXPECT_NEAR(cylinder.mass().area_mm2, 2 * pi * 3 * 10 + 2 * pi * 9, 1e-6);
    EXPECT_NEAR(must(make_cone(10, 5, 12, at(0, 0, 0), {3})).mass().volume_mm3, 2199.115, 1e-3); // tables.md: frustum
    EXPECT_NEAR(must(make_cone(0, 6, 9, at(0, 0, 0), {4})).mass().volume_mm3, pi * 36 * 9 / 3, 1e-6); // on its point
    EXPECT_NEAR(must(make_sphere(15, at(0, 0, 0), {5})).mass().volume_mm3, 4.0 / 3 * pi * 15 * 15 * 15, 1e-5);
    EXPECT_NEAR(must(make_prism(6, 10 * std::cos(pi / 6), 5, at(0, 0, 0), {6})).mass().volume_mm3, 1299.038,
                1e-3); // side 10
}
TEST(ExactSolids, SizesThatMakeNoBodyAreRefusedInWords) {
    for (double size : {0.0, -3.0, 1e9, std::nan("")}) {
        auto body = make_block({size, 1, 1}, at(0, 0, 0), {1});
        ASSERT_FALSE(body) << size;
        EXPECT_NE(body.error().sentence.find("width"), std::string::npos);
    }
    EXPECT_FALSE(make_prism(2, 5, 5, at(0, 0, 0), {1}));
}
TEST(ExactSolids, EveryFaceIsTaggedWithWhatItIs) {
    Body block = must(make_block({1, 2, 3}, at(0, 0, 0), {42}));
    ASSERT_EQ(block.tessellation().faces.size(), 6u);
    for (const FaceInfo& face : block.tessellation().faces) {
        auto meaning = tag_meaning(face.primary());
        ASSERT_TRUE(meaning);
        EXPECT_EQ(meaning->step, StepId(42));
        Vec3 expected = meaning->role == FaceRole::MinX   ? Vec3(-1, 0, 0)
                        : meaning->role == FaceRole::MaxX ? Vec3(1, 0, 0)
                        : meaning->role == FaceRole::MinY ? Vec3(0, -1, 0)
                        : meaning->role == FaceRole::MaxY ? Vec3(0, 1, 0)
                        : meaning->role == FaceRole::Top  ? Vec3(0, 0, 1)
                                                          : Vec3(0, 0, -1);
        EXPECT_NEAR(face.direction.dot(expected), 1, 1e-9) << tag_words(face.primary());
    }
}
TEST(Tessellation, IsClosedConsistentAndWithinTheDeflection) {
    Body ball = must(make_sphere(10, at(5, 5, 5), {1}));
    for (double deflection : {0.2, 0.05, 0.01}) {
        auto t = tessellate(ball, deflection);
        ASSERT_TRUE(t);
        EXPECT_TRUE(check_soundness(t->mesh).sound());
        double worst = 0;
        for (size_t i = 0; i < t->mesh.triangles.size(); ++i) {
            Vec3 middle = (t->mesh.corner(i, 0) + t->mesh.corner(i, 1) + t->mesh.corner(i, 2)) / 3;
            worst = std::max(worst, 10 - (middle - Vec3(5, 5, 5)).norm());
        }
        EXPECT_LE(worst, deflection * 1.05);
    }
}
TEST(Tessellation, CornerNormalsPointOutwardOnMovedAndReversedFaces) {
    auto cut = combine_exact(Operation::Cut, must(make_block({20, 20, 20}, at(0, 0, 0), {1})),
                             {must(make_cylinder(4, 40, at(10, 10, -5), {2}))});
    ASSERT_TRUE(cut);
    const Tessellation& t = cut->tessellation();
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        for (const Vec3& normal : t.normals[i]) EXPECT_GT(normal.dot(t.mesh.area_vector(i)), 0);
}

TEST(ExactBoolean, InclusionExclusionHoldsOnRandomSolids) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> place(-8, 8), size(6, 20);
    for (int i = 0; i < 12; ++i) {
        Body a = must(make_block({size(random), size(random), size(random)},
                                 at(place(random), place(random), place(random)), {1}));
        Body b =
            i % 2
                ? must(make_cylinder(size(random) / 2, size(random), at(place(random), place(random), place(random)),
                                     {2}))
                : must(make_sphere(size(random) / 2, at(place(random) + 8, place(random) + 8, place(random) + 8), {2}));
        auto join = combine_exact(Operation::Join, a, {b}), cut = combine_exact(Operation::Cut, a, {b}),
             common = combine_exact(Operation::Common, a, {b});
        double both = common ? common->mass().volume_mm3 : 0;
        ASSERT_TRUE(join);
        EXPECT_NEAR(join->mass().volume_mm3, a.mass().volume_mm3 + b.mass().volume_mm3 - both, 1e-3);
        if (cut) {
            EXPECT_NEAR(cut->mass().volume_mm3, a.mass().volume_mm3 - both, 1e-3);
        }
    }
}
TEST(ExactBoolean, FlushFacesMergeIntoOne) {
    auto join = combine_exact(Operation::Join, must(make_block({10, 10, 10}, at(0, 0, 0), {1})),
                              {must(make_block({10, 10, 10}, at(10, 0, 0), {2}))});
    ASSERT_TRUE(join);
    EXPECT_EQ(join->tessellation().faces.size(), 6u);
    EXPECT_EQ(join->pieces(), 1);
}
TEST(ExactBoolean, TagsSurviveACut) {
    auto cut = combine_exact(Operation::Cut, must(make_block({20, 20, 20}, at(0, 0, 0), {1})),
                             {must(make_cylinder(4, 40, at(10, 10, -5), {2}))});
    ASSERT_TRUE(cut);
    int of_block = 0, of_hole = 0;
    for (const FaceInfo& face : cut->tessellation().faces) {
        ASSERT_TRUE(tag_meaning(face.primary()));
        of_block += tag_meaning(face.primary())->step == StepId(1);
        of_hole += tag_meaning(face.primary())->step == StepId(2);
    }
    EXPECT_EQ(of_block, 6);
    EXPECT_EQ(of_hole, 1);
}
TEST(ExactBoolean, CuttingEverythingAwayIsSaidNotReturned) {
    auto cut = combine_exact(Operation::Cut, must(make_block({1, 1, 1}, at(0, 0, 0), {1})),
                             {must(make_block({3, 3, 3}, at(-1, -1, -1), {2}))});
    ASSERT_FALSE(cut);
    EXPECT_NE(cut.error().sentence.find("Nothing is left"), std::string::npos);
}
TEST(ExactBoolean, ImpossibleVolumesAreCaught) {
    EXPECT_TRUE(check_boolean_volume(Operation::Cut, 90, 100, {5}));  // too little is left
    EXPECT_TRUE(check_boolean_volume(Operation::Cut, 101, 100, {5})); // more than before
    EXPECT_TRUE(check_boolean_volume(Operation::Join, 99, 100, {50}));
    EXPECT_FALSE(check_boolean_volume(Operation::Join, 130, 100, {50}));
    EXPECT_TRUE(check_boolean_volume(Operation::Common, 60, 100, {50}));
}

TEST(Combine, AnExactAndAFacetedBodyGiveAFacetedOne) {
    Body block = must(make_block({20, 20, 20}, at(0, 0, 0), {1})), cube = Body::from_mesh(test::cube(10, {5, 5, 15}));
    auto cut = combine(Operation::Cut, block, {cube});
    ASSERT_TRUE(cut);
    EXPECT_FALSE(cut->body.is_exact());
    EXPECT_NEAR(cut->body.mass().volume_mm3, 8000 - 500, 1e-6);
}
TEST(CombineMeshes, InclusionExclusionHoldsOnTurnedBoxes) {
    std::mt19937 random(3);
    std::uniform_real_distribution<double> u(-1, 1);
    for (int i = 0; i < 12; ++i) {
        TriMesh a = test::cube(20),
                b = test::moved_by(test::turned(test::cube(15), 90 * u(random), {u(random), u(random), u(random)}),
                                   {8 * u(random) + 4, 8 * u(random) + 4, 8 * u(random) + 4});
        auto join = combine_meshes(Operation::Join, {a, b}), cut = combine_meshes(Operation::Cut, {a, b}),
             common = combine_meshes(Operation::Common, {a, b});
        ASSERT_TRUE(join);
        double both = common ? mass_properties(*common).volume_mm3 : 0;
        // Corners go to a grid of a nanometre: over 2,000 mm2 of turned faces that is less than a thousandth.
        EXPECT_NEAR(mass_properties(*join).volume_mm3, 8000 + 3375 - both, 5e-4);
        if (cut) {
            EXPECT_NEAR(mass_properties(*cut).volume_mm3, 8000 - both, 5e-4);
        }
        EXPECT_TRUE(check_soundness(*join).closed);
    }
}
TEST(CombineMeshes, EqualBodiesEdgesThatTouchAndManyAtOnceInAnyOrder) {
    TriMesh ball = test::sphere(10, 48);
    auto same = combine_meshes(Operation::Join, {ball, ball});
    ASSERT_TRUE(same);
    EXPECT_NEAR(mass_properties(*same).volume_mm3, mass_properties(ball).volume_mm3, 1e-3);
    EXPECT_FALSE(combine_meshes(Operation::Cut, {ball, ball}));
    auto corner = combine_meshes(Operation::Join, {test::cube(10), test::cube(10, {10, 10, 0})});
    ASSERT_TRUE(corner);
    EXPECT_NEAR(mass_properties(*corner).volume_mm3, 2000, 1e-6);
    EXPECT_TRUE(check_soundness(*corner).closed);
    // Five turned bodies, flush, crossing and apart: every order gives one volume, and inclusion and exclusion hold.
    std::vector<TriMesh> five;
    for (const TriMesh& mesh : {test::cube(20), test::cube(10, {20, 5, 5}), box_mesh({5, 5, -3}, {9, 9, 30}),
                                box_mesh({0, 0, 20}, {20, 20, 24}), test::cube(4, {60, 0, 0})})
        five.push_back(test::turned(mesh, 23, {1, -2, 0.5}));
    double want = 8000 + 1000 + 4 * 4 * (3 + 6) + 1600 + 64;
    std::vector<size_t> order{0, 1, 2, 3, 4};
    for (int round = 0; round < 6; ++round) {
        std::vector<TriMesh> turned;
        for (size_t i : order) turned.push_back(five[i]);
        auto all = combine_meshes(Operation::Join, turned);
        ASSERT_TRUE(all);
        EXPECT_NEAR(mass_properties(*all).volume_mm3, want, 2e-3);
        Soundness sound = check_soundness(*all);
        EXPECT_TRUE(sound.closed && !sound.inconsistent_edges && sound.self_intersecting->count == 0);
        std::rotate(order.begin(), order.begin() + 1, order.end());
        if (round % 2) std::swap(order[0], order[3]);
    }
}
TEST(CombineMeshes, FlushAndTurnedFlushFacesLeaveNothingBehind) {
    for (double turn : {0.0, 31.0}) {
        TriMesh a = test::turned(test::cube(20), turn, {1, 2, 3}),
                b = test::turned(test::cube(20, {20, 0, 0}), turn, {1, 2, 3});
        TriMesh pocket = test::turned(box_mesh({5, 5, 10}, {15, 15, 20}), turn, {1, 2, 3});
        auto join = combine_meshes(Operation::Join, {a, b});
        ASSERT_TRUE(join);
        EXPECT_NEAR(mass_properties(*join).volume_mm3, 16000, 1e-3) << turn;
        EXPECT_TRUE(check_soundness(*join).closed) << turn;
        auto cut = combine_meshes(Operation::Cut, {a, pocket});
        ASSERT_TRUE(cut);
        EXPECT_NEAR(mass_properties(*cut).volume_mm3, 7000, 1e-3) << turn;
        EXPECT_TRUE(check_soundness(*cut).closed) << turn;
    }
}
TEST(CombineMeshes, BodiesThatTouchAlongAnEdgeStillJoin) {
    auto join = combine_meshes(Operation::Join, {test::cube(10), test::cube(10, {10, 10, 0})});
    ASSERT_TRUE(join) << join.error().text();
    EXPECT_NEAR(mass_properties(*join).volume_mm3, 2000, 1e-6);
    EXPECT_TRUE(check_soundness(*join).closed);
}
TEST(CombineMeshes, AnOperandWhoseShellsOverlapIsUnitedFirst) {
    TriMesh two = test::cube(10);
    append(two, test::cube(10, {5, 0, 0}));
    auto join = combine_meshes(Operation::Join, {two, test::cube(10, {12, 0, 0})});
    ASSERT_TRUE(join) << join.error().text();
    EXPECT_NEAR(mass_properties(*join).volume_mm3, 2200, 1e-6);
    EXPECT_EQ(check_soundness(*join).shells, 1u);
}
TEST(CombineMeshes, TheOrderOfTheOthersDoesNotMatter) {
    TriMesh a = test::cube(20), b = test::cube(10, {15, 5, 5}), c = test::sphere(6, 12, {10, 10, 20});
    auto one = combine_meshes(Operation::Cut, {a, b, c}), two = combine_meshes(Operation::Cut, {a, c, b});
    ASSERT_TRUE(one && two);
    EXPECT_NEAR(mass_properties(*one).volume_mm3, mass_properties(*two).volume_mm3, 1e-6);
}
TEST(CombineMeshes, AnOpenBodyIsRefusedWithItsHoles) {
    TriMesh open = test::cube(10);
    open.triangles.pop_back();
    auto cut = combine_meshes(Operation::Cut, {test::cube(20), open});
    ASSERT_FALSE(cut);
    EXPECT_NE(cut.error().sentence.find("body 2 is not closed: 3 open edges in 1 holes"), std::string::npos)
        << cut.error().sentence;
}

TEST(MeshDistance, SpheresStandAsFarApartAsTheirCentresLessTheirRadii) {
    TriMesh a = test::sphere(10, 48), b = test::sphere(5, 48, {18, 3, 2});
    ClosestPair pair = closest_pair(DistanceTree(a), DistanceTree(b));
    EXPECT_NEAR(pair.distance_mm, Vec3(18, 3, 2).norm() - 15, 0.03); // facets lie up to r(1 - cos(pi/96)) inside
    EXPECT_NEAR((pair.at_a - pair.at_b).norm(), pair.distance_mm, 1e-9);
}
TEST(MeshDistance, EdgeToEdgeIsFound) { // no corner of either is the nearest place
    TriMesh a = test::turned(test::cube(10), 45, {1, 0, 0}),
            b = test::moved_by(test::turned(test::cube(10), 45, {0, 1, 0}), {0, 0, 30});
    ClosestPair pair = closest_pair(DistanceTree(a), DistanceTree(b));
    double expected = 1e9; // against dense sampling of all edges
    auto sample = [](const TriMesh& m) {
        std::vector<Vec3> points;
        for (size_t i = 0; i < m.triangles.size(); ++i)
            for (int k = 0; k < 3; ++k)
                for (int s = 0; s <= 60; ++s)
                    points.push_back(m.corner(i, k) + (m.corner(i, (k + 1) % 3) - m.corner(i, k)) * s / 60.0);
        return points;
    };
    for (const Vec3& p : sample(a))
        for (const Vec3& q : sample(b)) expected = std::min(expected, (p - q).norm());
    EXPECT_LE(pair.distance_mm, expected + 1e-12);
    EXPECT_NEAR(pair.distance_mm, expected, 0.01);
}
TEST(MeshDistance, AMovedTreeMeasuresAsAMovedMeshDoes) {
    // Waves on both: boxes and discs overlap where the surfaces do not. The moved mesh is searched without a move, and
    // checked from below by every corner against the other surface.
    auto wavy = [](double radius) {
        TriMesh mesh = test::sphere(1, 24);
        for (Vec3& v : mesh.vertices) {
            double wave = 1 + 0.05 * std::sin(7 * v.x()) * std::cos(5 * v.y() + 3 * v.z());
            v *= radius * wave;
        }
        return mesh;
    };
    TriMesh small = wavy(5), large = wavy(8);
    DistanceTree of_small(small), of_large(large);
    std::mt19937 random(5);
    std::uniform_real_distribution<double> any(-1, 1);
    for (int round = 0; round < 40; ++round) {
        Transform move = Transform::Identity();
        bool inside = round % 2;
        move.translate(inside ? Vec3(any(random), any(random), any(random)) * 0.7
                              : Vec3(any(random), any(random), any(random)).normalized() * 15);
        move.rotate(Eigen::AngleAxisd(3 * any(random), Vec3(any(random), any(random), any(random)).normalized()));
        TriMesh there = transformed(small, move);
        ClosestPair pair = closest_pair(of_small, move, of_large), same = closest_pair(DistanceTree(there), of_large);
        EXPECT_NEAR(pair.distance_mm, same.distance_mm, 1e-9) << round;
        EXPECT_EQ(pair.crossing, same.crossing) << round;
        if (pair.crossing) continue;
        EXPECT_NEAR((pair.at_a - pair.at_b).norm(), pair.distance_mm, 1e-9);
        double by_corners = 1e300;
        for (const Vec3& v : there.vertices) by_corners = std::min(by_corners, of_large.closest(v).distance_mm);
        DistanceTree moved(there);
        for (const Vec3& v : large.vertices) by_corners = std::min(by_corners, moved.closest(v).distance_mm);
        EXPECT_LE(pair.distance_mm, by_corners + 1e-12) << round;
        EXPECT_GT(pair.distance_mm, by_corners - 0.15) << round;
        ClosestPair none = closest_pair(of_small, move, of_large, pair.distance_mm * 0.99);
        EXPECT_TRUE(std::isinf(none.distance_mm)) << round;
    }
}
TEST(MeshDistance, CrossingIsToldFromTouching) {
    DistanceTree a(test::cube(10));
    ClosestPair crossing = closest_pair(a, DistanceTree(test::cube(10, {5, 5.2, 5.4}))),
                touching = closest_pair(a, DistanceTree(test::cube(10, {10, 0, 0})));
    EXPECT_TRUE(crossing.crossing);
    EXPECT_EQ(crossing.distance_mm, 0);
    EXPECT_FALSE(touching.crossing);
    EXPECT_NEAR(touching.distance_mm, 0, 1e-9);
}
TEST(MeshDistance, ClosestPointAgreesWithLookingAtEveryTriangle) {
    TriMesh mesh = test::sphere(10, 9);
    DistanceTree tree(mesh);
    std::mt19937 random(1);
    std::uniform_real_distribution<double> u(-20, 20);
    for (int i = 0; i < 300; ++i) {
        Vec3 p(u(random), u(random), u(random));
        double plain = 1e9;
        for (size_t t = 0; t < mesh.triangles.size(); ++t)
            plain = std::min(
                plain, (p - closest_on_triangle(p, mesh.corner(t, 0), mesh.corner(t, 1), mesh.corner(t, 2))).norm());
        EXPECT_NEAR(tree.closest(p).distance_mm, plain, 1e-12);
        EXPECT_EQ(tree.inside(p), p.norm() < 9.5 ? true : p.norm() > 10 ? false : tree.inside(p));
    }
}
TEST(RayScene, HitsWhatTheTreeHits) {
    TriMesh mesh = test::sphere(10, 12);
    RayScene rays;
    rays.add(mesh);
    rays.commit();
    DistanceTree tree(mesh);
    RayHit hit = rays.cast({-30, 1, 2}, {1, 0, 0});
    ASSERT_TRUE(hit);
    EXPECT_NEAR(hit.t, tree.first_hit({-30, 1, 2}, {1, 0, 0}).distance_mm, 1e-4);
    EXPECT_FALSE(rays.cast({-30, 11, 2}, {1, 0, 0}));
}
TEST(Body, BoxOfARoundBodyIsExact) {
    Body rod = must(make_cylinder(3, 30, at(0, 0, 0), {1}));
    EXPECT_NEAR(rod.box().min().x(), -3, 1e-6);
    EXPECT_NEAR(rod.box().max().y(), 3, 1e-6);
}
