// Straight holes without a boolean, against formulas, the kernel's own cut and counts of Euler and Poincare.
#include "mesh/soundness.h"
#include "shape/drill.h"
#include "shape/exact_shape.h"
#include "shape/exact_solids.h"
#include "shape/kernel_call.h"
#include <gtest/gtest.h>
#include <numbers>
#include <random>
#include <set>

using namespace lp;
using std::numbers::pi;

namespace {

Transform at(double x, double y, double z) {
    Transform t = Transform::Identity();
    t.translation() = Vec3(x, y, z);
    return t;
}
Body block(const Vec3& size, const Transform& place, uint64_t step = 1) {
    return *make_block(size, place, {step, 0});
}
Body rod(double radius, double height, const Transform& place, uint64_t step = 2) {
    return *make_cylinder(radius, height, place, {step, 0});
}

/// Handles of a closed surface: V - E + F = 2 (shells - handles).
int handles(const TriMesh& mesh) {
    std::set<std::pair<uint32_t, uint32_t>> edges;
    for (const Triangle& t : mesh.triangles)
        for (size_t k = 0; k < 3; ++k) edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
    return 1 - (int(mesh.vertices.size()) - int(edges.size()) + int(mesh.triangles.size())) / 2;
}

/// Sound triangles that tell the exact volume, and the volume the kernel's own cut has.
void expect_as_the_kernel(const Body& body, const std::vector<Body>& tools, const Body& drilled) {
    EXPECT_FALSE(drilled.check_triangles());
    Soundness sound = check_soundness(drilled.mesh());
    EXPECT_TRUE(sound.closed);
    EXPECT_FALSE(sound.inside_out);
    KernelCall call{"cut", {body.exact()->shape}, {}, {}};
    for (const Body& tool : tools) call.shapes.push_back(tool.exact()->shape);
    auto answer = perform(call);
    ASSERT_TRUE(answer);
    auto shape = std::make_shared<ExactShape>();
    shape->shape = answer->shape;
    auto kernels = Body::from_exact(shape);
    ASSERT_TRUE(kernels);
    EXPECT_NEAR(drilled.mass().volume_mm3, kernels->mass().volume_mm3, 1e-6 * body.mass().volume_mm3);
    EXPECT_NEAR(drilled.mass().area_mm2, kernels->mass().area_mm2, 1e-6 * body.mass().area_mm2);
    EXPECT_LT((drilled.mass().centre - kernels->mass().centre).norm(), 1e-6);
    EXPECT_EQ(drilled.tessellation().faces.size(), kernels->tessellation().faces.size());
    EXPECT_EQ(handles(drilled.mesh()), handles(kernels->mesh()));
}

} // namespace

TEST(Drill, ThroughBlindFlushAndFromBelow) {
    Body plate = block({60, 40, 10}, at(0, 0, 0)); // about the origin in x and y, or from it: asked below
    Vec3 low = plate.box().min();
    auto inside = [&](double x, double y, double z) { return at(low.x() + x, low.y() + y, low.z() + z); };
    std::vector<Body> tools{rod(2, 20, inside(10, 10, -5)), rod(3, 20, inside(25, 10, 4)), // through; blind from above
                            rod(3, 6, inside(40, 10, 4)),                                  // its end flush with the top
                            rod(1.5, 8, inside(10, 30, -2)),                               // blind from below
                            block({5, 4, 20}, inside(30, 30, -5), 3)};                     // a square one, through
    auto drilled = drill_directly(plate, tools);
    ASSERT_TRUE(drilled);
    double want = 60 * 40 * 10 - pi * (4 * 10 + 9 * 6 + 9 * 6 + 2.25 * 6) - 5 * 4 * 10;
    EXPECT_NEAR(drilled->mass().volume_mm3, want, 1e-6);
    EXPECT_EQ(handles(drilled->mesh()), 2);
    expect_as_the_kernel(plate, tools, *drilled);
    // Faces of the holes carry the tools' names, the plate's keep theirs.
    std::set<StepId> steps;
    for (const FaceInfo& face : drilled->tessellation().faces)
        for (Tag tag : face.tags) steps.insert(tag_meaning(tag)->step);
    EXPECT_EQ(steps, (std::set<StepId>{StepId(1), StepId(2), StepId(3)}));
}

TEST(Drill, ThroughBothWallsOfAHollowBodyAndAlongOtherAxes) {
    Body outer = block({40, 30, 20}, at(0, 0, 0));
    Vec3 low = outer.box().min();
    auto hollow = drill_directly(outer, {block({30, 40, 10}, at(low.x() + 5, low.y() - 5, low.z() + 5), 4)});
    ASSERT_TRUE(hollow) << "a tunnel along y";
    EXPECT_NEAR(hollow->mass().volume_mm3, 40 * 30 * 20 - 30 * 30 * 10, 1e-6);
    EXPECT_EQ(handles(hollow->mesh()), 1);
    std::vector<Body> down{rod(4, 30, at(low.x() + 20, low.y() + 15, low.z() - 5))};
    auto twice = drill_directly(*hollow, down);
    ASSERT_TRUE(twice);
    EXPECT_NEAR(twice->mass().volume_mm3, 15000 - pi * 16 * 10, 1e-6);
    EXPECT_EQ(handles(twice->mesh()), 3);
    expect_as_the_kernel(*hollow, down, *twice);
    // All of it turned in space.
    Transform turn = Transform::Identity();
    turn.rotate(Eigen::AngleAxisd(0.7, Vec3(1, 2, -1).normalized()));
    turn.translation() = Vec3(3, -8, 5);
    auto body = moved(*hollow, turn), tool = moved(down[0], turn);
    ASSERT_TRUE(body && tool);
    auto turned = drill_directly(*body, {*tool});
    ASSERT_TRUE(turned);
    EXPECT_NEAR(turned->mass().volume_mm3, twice->mass().volume_mm3, 1e-6);
}

TEST(Drill, WhatIsNoStraightHoleIsLeftToTheKernel) {
    Body plate = block({60, 40, 10}, at(0, 0, 0));
    Vec3 low = plate.box().min();
    auto inside = [&](double x, double y, double z) { return at(low.x() + x, low.y() + y, low.z() + z); };
    auto refused = [&](const std::vector<Body>& tools) { return !drill_directly(plate, tools); };
    EXPECT_TRUE(refused({rod(3, 20, inside(1, 10, -5))})) << "over the border";
    EXPECT_TRUE(refused({rod(3, 20, inside(3.005, 10, -5))})) << "a hair from the border";
    EXPECT_TRUE(refused({rod(3, 20, inside(10, 10, -5)), rod(3, 20, inside(14, 10, -5))})) << "into each other";
    EXPECT_TRUE(refused({rod(3, 5, inside(20, 20, 10))})) << "stands on it";
    EXPECT_TRUE(refused({rod(3, 5, inside(20, 20, 2))})) << "wholly inside";
    EXPECT_TRUE(refused({rod(3, 5, inside(20, 20, 30))})) << "misses";
    EXPECT_TRUE(refused({rod(3, 9.995, inside(20, 20, 0.0))})) << "leaves a skin of five thousandths";
    EXPECT_TRUE(refused({*make_sphere(3, inside(20, 20, 10), {5, 0})}));
    auto tube = drill_directly(rod(5, 30, inside(20, 20, -5)), {rod(3, 40, inside(20, 20, -8))});
    ASSERT_TRUE(tube);
    EXPECT_TRUE(refused({*tube})) << "a tube leaves its core standing";
    Body mesh = Body::from_mesh(plate.mesh());
    EXPECT_FALSE(drill_directly(mesh, {rod(3, 20, inside(10, 10, -5))}));
    EXPECT_FALSE(drill_directly(plate, {}));
}

TEST(Drill, RandomHolesAreTheKernelsOrLeftToIt) {
    std::mt19937 random(17);
    auto any = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
    int made = 0;
    for (int round = 0; round < 40; ++round) {
        Body body = block({50, 50, 12}, at(0, 0, 0));
        Vec3 low = body.box().min();
        for (int more = 0; more < 2; ++more) {
            std::vector<Body> tools;
            for (int k = 0; k < 1 + int(any(0, 4)); ++k) {
                Transform place = at(low.x() + any(0, 50), low.y() + any(0, 50), low.z() + any(-6, 10));
                place.rotate(Eigen::AngleAxisd(any(0, 6), Vec3::UnitZ()));
                if (any(0, 1) < 0.6)
                    tools.push_back(rod(any(0.5, 4), any(3, 20), place, uint64_t(2 + k)));
                else
                    tools.push_back(block({any(1, 8), any(1, 8), any(3, 20)}, place, uint64_t(2 + k)));
            }
            auto drilled = drill_directly(body, tools);
            if (!drilled) continue;
            ++made;
            expect_as_the_kernel(body, tools, *drilled);
            body = *drilled;
        }
    }
    EXPECT_GT(made, 15);
    EXPECT_LT(made, 75);
}
