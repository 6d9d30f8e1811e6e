// Fewer facets: flat ones without moving anything, round ones within the chord's own height, sound, measured afresh.
#include "made_project.h"
#include "mesh/remesh.h"
#include "mesh/simplify.h"
#include "mesh/smooth.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// A cube whose faces are parted into n x n squares.
TriMesh gridded(double side, int n) {
    TriMesh mesh;
    for (int axis = 0; axis < 3; ++axis)
        for (double at : {0.0, side})
            for (int i = 0; i < n; ++i)
                for (int j = 0; j < n; ++j) {
                    auto corner = [&](int u, int v) {
                        Vec3 p;
                        p[axis] = at;
                        p[(axis + 1) % 3] = side * u / n;
                        p[(axis + 2) % 3] = side * v / n;
                        return p;
                    };
                    const auto first = uint32_t(mesh.vertices.size());
                    for (auto [u, v] : {std::pair{i, j}, {i + 1, j}, {i + 1, j + 1}, {i, j + 1}})
                        mesh.vertices.push_back(corner(u, v));
                    Triangle a{first, first + 1, first + 2}, b{first, first + 2, first + 3};
                    if (at == 0) std::swap(a[1], a[2]), std::swap(b[1], b[2]);
                    mesh.triangles.insert(mesh.triangles.end(), {a, b});
                }
    return welded(mesh);
}

double farthest_corner(const TriMesh& of, const TriMesh& from) {
    const DistanceTree tree(from);
    double most = 0;
    for (const Vec3& v : of.vertices) most = std::max(most, tree.closest(v).distance_mm);
    return most;
}

} // namespace

TEST(Simplify, FlatFacesLoseTheirFacetsAndNothingMoves) {
    const TriMesh cube = gridded(20, 20);
    ASSERT_EQ(cube.triangles.size(), 4800u);
    const auto fewer = simplify_mesh(cube, {.deviation_mm = 1e-3});
    ASSERT_TRUE(fewer);
    EXPECT_LE(fewer->mesh.triangles.size(), 40u) << "twelve would do";
    EXPECT_LE(fewer->largest_deviation_mm, 1e-3);
    EXPECT_NEAR(mass_properties(fewer->mesh).volume_mm3, 8000, 1e-6);
    EXPECT_TRUE(check_soundness(fewer->mesh).closed);
}

TEST(Simplify, ABallStaysWithinTheDistance) {
    // A facet of edge e on a sphere of radius r stands off by about e^2 / (6 r): facets needed go with 1 / deviation.
    const TriMesh ball = sphere(10, 120);
    size_t before = ball.triangles.size();
    for (double deviation : {0.005, 0.02, 0.1}) {
        const auto fewer = simplify_mesh(ball, {.deviation_mm = deviation});
        ASSERT_TRUE(fewer);
        EXPECT_LT(fewer->mesh.triangles.size(), before) << deviation;
        before = fewer->mesh.triangles.size();
        EXPECT_LE(fewer->largest_deviation_mm, deviation);
        EXPECT_LE(farthest_corner(ball, fewer->mesh), deviation + 1e-9);
        const Soundness sound = check_soundness(fewer->mesh);
        EXPECT_TRUE(sound.closed);
        EXPECT_EQ(sound.self_intersecting->count, 0u);
    }
    EXPECT_LT(before, ball.triangles.size() / 10);
}

TEST(Simplify, BordersStayAndNonsenseIsRefused) {
    TriMesh open = gridded(20, 10);
    open.triangles.resize(open.triangles.size() - 200);
    const auto fewer = simplify_mesh(open, {.deviation_mm = 0.01});
    ASSERT_TRUE(fewer);
    EXPECT_LT(fewer->mesh.triangles.size(), open.triangles.size() / 2);
    EXPECT_FALSE(is_closed(fewer->mesh));
    EXPECT_FALSE(simplify_mesh({}));
    EXPECT_FALSE(simplify_mesh(open, {.deviation_mm = 0}));
    EXPECT_FALSE(simplify_mesh(open, {.deviation_mm = std::nan("")}));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(simplify_mesh(open, {}, stopped));
    const auto tetrahedron = simplify_mesh(box_mesh({0, 0, 0}, {1, 1, 1}), {.deviation_mm = 1e-4});
    ASSERT_TRUE(tetrahedron);
    EXPECT_EQ(tetrahedron->mesh.triangles.size(), 12u) << "nothing can go";
}

TEST(Simplify, AStepOfABodyOfTriangles) {
    std::string stl = "solid g\n";
    const TriMesh cube = gridded(20, 12);
    for (size_t t = 0; t < cube.triangles.size(); ++t) {
        stl += "facet normal 0 0 0\nouter loop\n";
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = cube.corner(t, k);
            stl += "vertex " + std::to_string(p.x()) + " " + std::to_string(p.y()) + " " + std::to_string(p.z()) + "\n";
        }
        stl += "endloop\nendfacet\n";
    }
    stl += "endsolid g\n";
    const Made made = make({step("bring_in", {{"file", "g.stl"}}, "g"), step("simplify", json::object())},
                           json::object(), {{"g.stl", stl}});
    ASSERT_EQ(made.says(), "");
    EXPECT_LT(made.body().mesh().triangles.size(), 60u);
    EXPECT_NEAR(made.volume(), 8000, 1e-3);
    EXPECT_NE(made.step(1).says.find("1728 triangles became"), std::string::npos) << made.step(1).says;
    const Made exact = make({block(10, 10, 10), step("simplify", json::object())});
    EXPECT_NE(exact.says().find("no body of triangles"), std::string::npos) << exact.says();
}

namespace {

/// A ball whose corners stand in and out by up to `rough`, the same every time.
TriMesh rough_ball(double radius, int n, double rough) {
    TriMesh mesh = remesh(test::sphere(radius, n), {1.5, 60})->mesh; // even: no corners crowd at poles
    uint64_t state = 7;
    for (Vec3& v : mesh.vertices) {
        state = state * 6364136223846793005ull + 1442695040888963407ull;
        v *= 1 + rough / radius * (double(state >> 40) / double(1 << 24) * 2 - 1);
    }
    return mesh;
}
double roughness(const TriMesh& mesh, double radius) {
    double sum = 0;
    for (const Vec3& v : mesh.vertices) sum += (v.norm() - radius) * (v.norm() - radius);
    return std::sqrt(sum / double(mesh.vertices.size()));
}

} // namespace

TEST(Smooth, ARoughBallIsRounderAndHoldsAsMuch) {
    const TriMesh rough = rough_ball(20, 60, 0.2);
    const auto even = smooth_mesh(rough, {20, 60});
    ASSERT_TRUE(even) << even.error().text();
    EXPECT_NEAR(mass_properties(even->mesh).volume_mm3, mass_properties(rough).volume_mm3, 1e-4);
    EXPECT_LT(roughness(even->mesh, 20), 0.5 * roughness(rough, 20));
    EXPECT_LT(even->largest_move_mm, 0.5);
    EXPECT_EQ(even->mesh.triangles, rough.triangles);
}

TEST(Smooth, EdgesStayAndOpenMeshesAreRefused) {
    const TriMesh box = box_mesh({0, 0, 0}, {10, 10, 10});
    const auto even = smooth_mesh(box, {50, 40});
    ASSERT_TRUE(even);
    EXPECT_EQ(even->mesh.vertices, box.vertices) << "every corner is an end of edges that stay";
    TriMesh open = box;
    open.triangles.pop_back();
    EXPECT_FALSE(smooth_mesh(open));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(smooth_mesh(box, {}, stopped));
}

TEST(Remesh, FacetsAreEvenAndTheBoxIsTheSame) {
    const TriMesh box = box_mesh({0, 0, 0}, {20, 12, 8});
    const auto even = remesh(box, {1.0, 30});
    ASSERT_TRUE(even) << even.error().text();
    EXPECT_TRUE(check_soundness(even->mesh).sound());
    EXPECT_NEAR(mass_properties(even->mesh).volume_mm3, 20 * 12 * 8, 1e-6);
    EXPECT_LT(even->largest_deviation_mm, 1e-9);
    // About as many as equilateral ones of that length: area / (sqrt(3) / 4).
    const double wanted = 2 * (20 * 12 + 20 * 8 + 12 * 8) / (std::sqrt(3.0) / 4);
    EXPECT_NEAR(double(even->mesh.triangles.size()), wanted, 0.5 * wanted);
    double longest = 0;
    for (const Triangle& t : even->mesh.triangles)
        for (size_t k = 0; k < 3; ++k)
            longest = std::max(longest, (even->mesh.vertices[t[k]] - even->mesh.vertices[t[(k + 1) % 3]]).norm());
    EXPECT_LT(longest, 2.2);
}

TEST(Remesh, TooFineOrOpenIsRefused) {
    EXPECT_FALSE(remesh(box_mesh({0, 0, 0}, {200, 200, 200}), {0.01, 30}));
    TriMesh open = box_mesh({0, 0, 0}, {5, 5, 5});
    open.triangles.pop_back();
    EXPECT_FALSE(remesh(open, {1, 30}));
    EXPECT_FALSE(remesh(box_mesh({0, 0, 0}, {5, 5, 5}), {0, 30}));
}
