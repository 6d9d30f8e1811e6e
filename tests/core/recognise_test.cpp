// Forms recognised in meshes whose truth is known.
#include "made_project.h"
#include "mesh/recognise.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

std::vector<Feature> found_in(const TriMesh& mesh) {
    auto features = recognise(mesh);
    EXPECT_TRUE(features) << (features ? "" : features.error().text());
    return features.value_or(std::vector<Feature>{});
}
std::vector<Feature> of_kind(const std::vector<Feature>& all, Feature::Kind kind) {
    std::vector<Feature> some;
    for (const Feature& f : all)
        if (f.kind == kind) some.push_back(f);
    return some;
}
using Kind = Feature::Kind;

} // namespace

TEST(Recognise, ABoxHasSixPlanesOfItsSides) {
    const auto all = found_in(box_mesh({1, 2, 3}, {11, 22, 33}));
    ASSERT_EQ(all.size(), 6u);
    EXPECT_NEAR(all[0].area_mm2, 600, 1e-9);
    EXPECT_NEAR(all[5].area_mm2, 200, 1e-9);
    for (const Feature& f : all) {
        EXPECT_EQ(f.kind, Kind::Plane);
        EXPECT_NEAR(f.axis.dot(f.at - Vec3(6, 12, 18)), std::fabs(f.axis.dot(Vec3(5, 10, 15))), 1e-9) << "outward";
        EXPECT_LT(f.largest_deviation_mm, 1e-9);
    }
}

TEST(Recognise, PegsAndHolesHaveTheirAxesAndDiameters) {
    // A plate with a peg of 6 on it and a hole of 8 beside it, turned any way.
    const Made m =
        make({block(40, 20, 6), step("cylinder", {{"diameter", 6}, {"height", 10}, {"at_x", -10}, {"at_z", 6}}, "peg"),
              step("cylinder", {{"diameter", 8}, {"height", 6}, {"at_x", 10}, {"does", "cut"}}, "hole")});
    ASSERT_EQ(m.says(), "");
    const Vec3 about(1, 2, 0.5);
    const TriMesh mesh = turned(*m.part().mesh, 37, about);
    const Transform turn(Eigen::AngleAxisd(37 * pi / 180, about.normalized()));
    const auto all = found_in(mesh);
    const auto rounds = of_kind(all, Kind::Cylinder);
    ASSERT_EQ(rounds.size(), 2u);
    for (const Feature& f : rounds) {
        const bool hole = f.inside;
        EXPECT_NEAR(f.diameter_mm, hole ? 8 : 6, 1e-3);
        EXPECT_NEAR(std::fabs(f.axis.dot(turn.linear() * Vec3::UnitZ())), 1, 1e-6);
        const Vec3 middle = turn * (hole ? Vec3(10, 0, 3) : Vec3(-10, 0, 11));
        EXPECT_LT((f.at - middle).norm(), 1e-3);
        EXPECT_NEAR(f.area_mm2, hole ? pi * 8 * 6 : pi * 6 * 10, 1);
        EXPECT_LT(f.largest_deviation_mm, 1e-3);
    }
    EXPECT_EQ(of_kind(all, Kind::Plane).size(), 7u) << "six sides and the top of the peg";
    EXPECT_EQ(all.size(), 9u);
}

TEST(Recognise, ConesAndBalls) {
    const Made cone = make(json::array({step("cone", {{"diameter", 20}, {"top_diameter", 8}, {"height", 12}})}));
    ASSERT_EQ(cone.says(), "");
    const auto cones = of_kind(found_in(*cone.part().mesh), Kind::Cone);
    ASSERT_EQ(cones.size(), 1u);
    EXPECT_NEAR(cones[0].half_angle_deg, std::atan2(6.0, 12.0) * 180 / pi, 0.02);
    EXPECT_LT((cones[0].at - Vec3(0, 0, 20)).norm(), 0.02) << "its point";
    EXPECT_NEAR(cones[0].diameter_mm, 20, 1e-3);
    EXPECT_LT(cones[0].axis.z(), -0.999) << "from its point outward";
    EXPECT_FALSE(cones[0].inside);
    const auto balls = of_kind(found_in(sphere(12, 24, {3, 4, 5})), Kind::Sphere);
    ASSERT_EQ(balls.size(), 1u);
    EXPECT_NEAR(balls[0].diameter_mm, 24, 1e-3);
    EXPECT_LT((balls[0].at - Vec3(3, 4, 5)).norm(), 1e-3);
    EXPECT_FALSE(balls[0].inside);
    EXPECT_TRUE(of_kind(found_in(inside_out(sphere(12, 24))), Kind::Sphere).at(0).inside);
}

TEST(Recognise, RoundedEdgesAreCylindersAndCornersAreBalls) {
    const Made m = make({block(40, 30, 20), step("fillet", {{"edges", "all"}, {"radius", 4}})});
    ASSERT_EQ(m.says(), "");
    const auto all = found_in(*m.part().mesh);
    const auto rounds = of_kind(all, Kind::Cylinder), planes = of_kind(all, Kind::Plane);
    ASSERT_EQ(rounds.size(), 12u);
    for (const Feature& f : rounds) {
        EXPECT_NEAR(f.diameter_mm, 8, 0.03) << "its corners are told within 0.02 mm";
        EXPECT_FALSE(f.inside);
    }
    ASSERT_GE(planes.size(), 6u);
    EXPECT_NEAR(planes[0].area_mm2, 32 * 22, 1);
}

TEST(Recognise, WhatIsNoneIsNotTold) {
    // A prism of six sides is planes; a torus is none of the four.
    const Made prism = make(json::array({step("prism", {{"sides", 6}, {"across", 20}, {"height", 10}})}));
    EXPECT_EQ(of_kind(found_in(*prism.part().mesh), Kind::Plane).size(), 8u);
    EXPECT_TRUE(of_kind(found_in(*prism.part().mesh), Kind::Cylinder).empty());
    const auto ring = found_in(torus(20, 6, 60, 30));
    for (const Feature& f : ring) EXPECT_LT(f.area_mm2, 0.2 * 4 * pi * pi * 20 * 6) << word_of(f.kind);
    EXPECT_FALSE(recognise(TriMesh{}));
    Task task;
    task.cancel.cancel();
    EXPECT_FALSE(recognise(sphere(12, 24), {}, task));
    // Open and torn meshes are looked at as they are.
    TriMesh open = box_mesh({0, 0, 0}, {10, 10, 10});
    open.triangles.resize(6);
    EXPECT_FALSE(found_in(open).empty());
}
