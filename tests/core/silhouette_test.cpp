// What bodies cover of a plane: against closed formulas.
#include "base/turn_between.h"
#include "project/evaluate.h"
#include "project/project_json.h"
#include "shape/exact_solids.h"
#include "steps/outlines/silhouette.h"
#include <nlohmann/json.hpp>

using namespace lp;
using nlohmann::json;
using std::numbers::pi;

namespace {

double covered(const FlatPaths& paths) {
    double area = 0;
    for (const FlatPath& p : paths.paths)
        for (const auto& contour : p.contours) area += signed_area(contour);
    return std::fabs(area);
}

Transform seen_from(const Vec3& normal) {
    return frame_along(normal);
}

Evaluation evaluated(const json& steps) {
    json part{{"name", "P"}, {"steps", steps}};
    json whole{{"format", "loose-peg"}, {"version", 1}, {"parts", json::array({part})}};
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    Evaluator evaluator;
    auto e = evaluator.evaluate(std::make_shared<const Project>(project.value_or(Project{})));
    return e ? std::move(*e) : Evaluation{};
}

} // namespace

TEST(Silhouette, OfACylinderIsACircleFromAboveAndARectangleFromTheSide) {
    Body rod = make_cylinder(6, 30, Transform::Identity(), {}).value();
    auto above = silhouette_of({&rod}, Transform::Identity());
    ASSERT_TRUE(above);
    ASSERT_EQ(above->paths[0].contours.size(), 1u);
    ASSERT_EQ(above->paths[0].contours[0].size(), 1u) << "one circle";
    EXPECT_NEAR(above->paths[0].contours[0][0].radius, 6, 1e-3);
    auto side = silhouette_of({&rod}, seen_from(Vec3::UnitX()));
    ASSERT_TRUE(side);
    EXPECT_EQ(side->paths[0].contours[0].size(), 4u);
    EXPECT_NEAR(covered(*side), 12 * 30, 0.5);
}

TEST(Silhouette, OfATurnedBlockFollowsTheFormula) {
    // A box of sizes a, b, c covers ab |nz| + bc |nx| + ca |ny| (its faces that look up).
    Body box = make_block({20, 14, 6}, Transform::Identity(), {}).value();
    for (const Vec3& way : {Vec3(1, 2, 3), Vec3(-2, 0.3, 1), Vec3(0.2, -0.1, -1)}) {
        Vec3 n = way.normalized();
        auto seen = silhouette_of({&box}, seen_from(n));
        ASSERT_TRUE(seen);
        EXPECT_NEAR(covered(*seen), 280 * std::fabs(n.z()) + 84 * std::fabs(n.x()) + 120 * std::fabs(n.y()), 0.05);
    }
}

TEST(Silhouette, FollowsThePartAndIsRaised) {
    auto steps = [](const char* diameter) {
        return json::array(
            {{{"kind", "block"}, {"name", "plate"}, {"fields", {{"size_x", 40}, {"size_y", 20}, {"size_z", 4}}}},
             {{"kind", "cylinder"}, {"fields", {{"diameter", diameter}, {"height", 4}, {"at_x", "20 mm"}}}},
             {{"kind", "outline"},
              {"name", "all of it"},
              {"fields",
               {{"on", "xy"},
                {"distance", "20 mm"},
                {"drawing", {{"elements", json::array({{{"kind", "silhouette"}}})}}}}}},
             {{"kind", "extrude"}, {"fields", {{"outline", "all of it"}, {"height", "5 mm"}, {"does", "new"}}}}});
    };
    for (double d : {10.0, 16.0}) {
        Evaluation e = evaluated(steps((std::to_string(d) + " mm").c_str()));
        ASSERT_EQ(e.parts.size(), 1u);
        for (const StepOutcome& s : e.parts[0].steps) EXPECT_TRUE(s.ok) << s.says;
        ASSERT_EQ(e.parts[0].bodies.size(), 2u);
        const Body& raised = e.parts[0].bodies[1].body;
        EXPECT_NEAR(raised.mass().volume_mm3, 5 * (800 + pi * d * d / 8), 0.3);
        EXPECT_EQ(raised.tessellation().faces.size(), 2 + 6u) << "sides, one of them round";
    }
}

TEST(Silhouette, WithoutABodySaysSo) {
    Evaluation e = evaluated(json::array(
        {{{"kind", "outline"}, {"fields", {{"drawing", {{"elements", json::array({{{"kind", "silhouette"}}})}}}}}}}));
    ASSERT_EQ(e.parts.size(), 1u);
    EXPECT_FALSE(e.parts[0].steps[0].ok);
    EXPECT_NE(e.parts[0].steps[0].says.find("no body"), std::string::npos);
}
