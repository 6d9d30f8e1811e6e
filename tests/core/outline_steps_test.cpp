// Steps that draw and grow solids from drawings, through whole projects: against closed formulas.
#include "made_project.h"
#include "project/references.h"
#include <nlohmann/json.hpp>

using namespace lp;
using lp::test::Made;
using lp::test::make;
using lp::test::step;
using nlohmann::json;
using std::numbers::pi;

namespace {

json outline(const json& drawing, const std::string& name = "base", const json& more = json::object()) {
    json fields{{"drawing", drawing}};
    fields.update(more);
    return {{"kind", "outline"}, {"name", name}, {"fields", fields}};
}
json circle(double x, double y, double r) {
    return {{"kind", "circle"}, {"points", {{x, y}}}, {"radius", r}};
}
/// Lines through corners, closed; ids from `first`.
json polygon(std::vector<std::array<double, 2>> p) {
    json lines = json::array();
    for (size_t i = 0; i < p.size(); ++i)
        lines.push_back({{"kind", "line"}, {"points", {p[i], p[(i + 1) % p.size()]}}});
    return lines;
}
json drawn(const json& elements) {
    // One element in braces is that element, not a list of one.
    return {{"elements", elements.is_array() ? elements : json::array({elements})}};
}

/// Act 1: two rectangles side by side with walls, sizes by names; ids are fixed so that regions can be named.
json tray_drawing() {
    return json::parse(R"({"points":{"10":[0,0],"11":[58,0],"12":[58,36],"13":[0,36],"14":[88,0],"15":[88,36]},
 "elements":[{"id":20,"kind":"line","points":[10,11]},{"id":21,"kind":"line","points":[11,12]},{"id":22,"kind":"line","points":[12,13]},{"id":23,"kind":"line","points":[13,10]},
  {"id":24,"kind":"line","points":[11,14]},{"id":25,"kind":"line","points":[14,15]},{"id":26,"kind":"line","points":[15,12]},
  {"id":40,"kind":"offset","of":[20,21,22,23],"distance":"-wall"},{"id":41,"kind":"offset","of":[24,25,26,21],"distance":"-wall"}],
 "constraints":[{"id":30,"kind":"coincident","of":[10,0]},{"id":31,"kind":"horizontal","of":[20]},{"id":32,"kind":"vertical","of":[21]},{"id":33,"kind":"horizontal","of":[22]},{"id":34,"kind":"vertical","of":[23]},
  {"id":35,"kind":"horizontal","of":[24]},{"id":36,"kind":"vertical","of":[25]},{"id":37,"kind":"horizontal","of":[26]},
  {"id":50,"kind":"length","of":[20],"value":"long"},{"id":51,"kind":"length","of":[21],"value":"36 mm"},{"id":52,"kind":"length","of":[24],"value":"30 mm"}]})");
}
double tray_floor(double length, double wall) {
    return (length - 2 * wall) * (36 - 2 * wall) + (30 - 2 * wall) * (36 - 2 * wall);
}
} // namespace

TEST(Extrude, PrismsHaveAreaTimesHeight) {
    json plate = polygon({{0, 0}, {40, 0}, {40, 25}, {0, 25}});
    plate.push_back(circle(10, 10, 4));
    Made m = make({outline(drawn(plate)), step("extrude", {{"height", "6 mm"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), (1000 - pi * 16) * 6, 1e-6);
    EXPECT_EQ(m.part().bodies[0].body.tessellation().faces.size(), 7u);
    EXPECT_NEAR(m.part().box.min().z(), 0, 1e-9);
    for (auto [side, low, high] :
         {std::tuple("in", -6.0, 0.0), std::tuple("middle", -3.0, 3.0), std::tuple("out", 0.0, 6.0)}) {
        Made n = make({outline(drawn(plate)), step("extrude", {{"height", "6 mm"}, {"side", side}})});
        EXPECT_NEAR(n.part().box.min().z(), low, 1e-6);
        EXPECT_NEAR(n.part().box.max().z(), high, 1e-6);
    }
    Made both =
        make({outline(drawn(plate)), step("extrude", {{"height", "6 mm"}, {"other_way", "2 mm"}, {"from", "1 mm"}})});
    EXPECT_NEAR(both.part().box.min().z(), -1, 1e-6);
    EXPECT_NEAR(both.part().box.max().z(), 7, 1e-6);
}
TEST(Extrude, AFileFromBeforeCallsItByItsOldId) {
    auto project = project_from_text(
        R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"raise","fields":{"height":"5 mm"}}]}]})");
    ASSERT_TRUE(project) << project.error().text();
    EXPECT_EQ(project->parts[0]->steps[0].kind, "extrude");
    EXPECT_NE(project_to_json(*project).dump().find("\"extrude\""), std::string::npos);
}

TEST(Extrude, LeaningWallsMakeAFrustum) {
    // Frustum of a square pyramid: h / 3 (A + B + sqrt(A B)); sides lean in by 10 degrees.
    double h = 12, a = 20, b = a - 2 * h * std::tan(radians(10));
    Made m = make({outline(drawn(polygon({{0, 0}, {a, 0}, {a, a}, {0, a}}))),
                   step("extrude", {{"height", h}, {"draft", "10 deg"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), h / 3 * (a * a + b * b + a * b), 1e-3);
    // A round one is a cone's frustum.
    Made c = make({outline(drawn({circle(0, 0, 10)})), step("extrude", {{"height", h}, {"draft", "-5 deg"}})});
    double r = 10 + h * std::tan(radians(5));
    EXPECT_EQ(c.says(), "");
    EXPECT_NEAR(c.volume(), pi * h / 3 * (100 + 10 * r + r * r), 1e-3);
}
TEST(Extrude, GoesThroughUpToAFaceAndToTheNextFace) {
    json block = step("block", {{"size_x", 40}, {"size_y", 30}, {"size_z", 20}});
    Made through = make({block, outline(drawn({circle(0, 0, 3)})),
                         step("extrude", {{"to", "through"}, {"side", "middle"}, {"does", "cut"}})});
    EXPECT_EQ(through.says(), "");
    EXPECT_NEAR(through.volume(), 24000 - pi * 9 * 20, 1e-6);
    // From above down to the top of the block, both ways of saying it.
    for (const json& how :
         {json{{"to", "next"}, {"side", "in"}}, json{{"to", "face"}, {"face", "top of lump"}, {"side", "in"}}}) {
        json lump = block;
        lump["name"] = "lump";
        Made m = make({lump, outline(drawn({circle(0, 0, 3)}), "o", {{"distance", "35 mm"}}), step("extrude", how)});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), 24000 + pi * 9 * 15, 1e-6);
    }
    // Up to a slanted face: the prism's mean height counts. A wedge 20 long and 20 high falls from 20 to 0.
    json wedge = step("wedge", {{"size_x", 20}, {"size_y", 20}, {"size_z", 20}});
    wedge["name"] = "slope";
    Made slanted = make({wedge, outline(drawn({circle(0, 0, 2)}), "o", {{"distance", "-5 mm"}}),
                         step("extrude", {{"to", "face"}, {"face", "side 2 of slope"}, {"does", "new"}})});
    EXPECT_EQ(slanted.says(), "");
    ASSERT_EQ(slanted.part().bodies.size(), 2u);
    EXPECT_NEAR(slanted.part().bodies[1].body.mass().volume_mm3, pi * 4 * 15, 1e-3);
    // Nothing in its way is said.
    Made nothing = make({block, outline(drawn({circle(100, 0, 3)})), step("extrude", {{"to", "next"}})});
    EXPECT_NE(nothing.says().find("Nothing lies"), std::string::npos) << nothing.says();
}
TEST(Extrude, TheTrayFollowsItsNumbers) {
    std::string last_walls;
    for (auto [length, wall] : {std::pair(58.0, 1.6), std::pair(71.0, 2.0)}) {
        json parameters{{"long", std::to_string(length) + " mm"}, {"wall", std::to_string(wall) + " mm"}};
        Made m = make(
            {outline(tray_drawing(), "plan"),
             step("extrude", {{"regions", "all"}, {"outline", "plan"}, {"height", 27}}),
             step("extrude",
                  {{"regions", "(wall + 5, wall + 5); (long + 15, 18)"}, {"outline", "plan"}, {"height", "1.2 mm"}}),
             outline(json::parse(R"({"elements":[]})"), "rim", {{"on", "top of 2"}})},
            parameters);
        EXPECT_EQ(m.says().find("outline has no"), std::string::npos);
        double floor = tray_floor(length, wall), whole = (length + 30) * 36;
        EXPECT_NEAR(m.volume(), (whole - floor) * 27 + floor * 1.2, 1e-5) << m.says();
        EXPECT_EQ(m.part().bodies[0].body.pieces(), 1);
    }
}
TEST(Extrude, ADrawingOnAFaceMovesWithTheFace) {
    // A hole drawn at (5, 5) on the top of a block that stands on another: it stays there whatever the heights are.
    for (double h : {10.0, 25.0}) {
        json foot = step("block", {{"size_x", 60}, {"size_y", 60}, {"size_z", "h"}}),
             head = step(
                 "block",
                 {{"size_x", 30}, {"size_y", 20}, {"size_z", 8}, {"on", "top of foot"}, {"at_x", 20}, {"at_y", 25}});
        foot["name"] = "foot";
        head["name"] = "head";
        Made m = make({foot, head, outline(drawn({circle(5, 5, 2)}), "o", {{"on", "top of head"}}),
                       step("extrude", {{"height", 3}, {"side", "in"}, {"does", "cut"}})},
                      {{"h", std::to_string(h) + " mm"}});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), 3600 * h + 30 * 20 * 8 - pi * 4 * 3, 1e-6);
        EXPECT_NEAR(m.part().box.max().z(), h + 8, 1e-9);
        // The hole's floor is 3 under the top.
        bool found = false;
        for (const FaceInfo& f : m.part().bodies[0].body.tessellation().faces)
            found = found || (std::fabs(f.centre.z() - (h + 5)) < 1e-6 && std::fabs(f.area_mm2 - pi * 4) < 0.05);
        EXPECT_TRUE(found);
    }
}
TEST(Revolve, SolidsFollowPappus) {
    // Pappus: volume = area times the way of its middle. A triangle beside the axis, whole and in part.
    json triangle = polygon({{10, 0}, {16, 0}, {10, 9}});
    double area = 27, middle = 12;
    for (double angle : {360.0, 90.0, 200.0}) {
        Made m = make({outline(drawn(triangle), "o", {{"on", "xz"}}), step("revolve", {{"angle", angle}})});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), area * middle * radians(angle), 1e-5);
        EXPECT_NEAR(m.part().box.min().z(), 0, 1e-6); // turned about the upright axis
        EXPECT_NEAR(m.part().box.max().z(), 9, 1e-6);
    }
}
TEST(Revolve, AnOutlineOverItsAxisIsRefusedWithThePlace) {
    Made m = make({outline(drawn({circle(3, 0, 5)})), step("revolve", json::object())});
    EXPECT_NE(m.says().find("crosses the axis"), std::string::npos) << m.says();
    EXPECT_NE(m.says().find("2 mm beyond"), std::string::npos) << m.says();
    ASSERT_TRUE(m.part().steps[1].problem->point);
}
TEST(Revolve, TheFunnelsWallStaysEvenWhenAPointMoves) {
    // Half-profile: neck up, then out in an arc; wall drawn to the left, closed, turned.
    for (double out : {30.0, 44.0}) {
        json d = json::parse(R"({"points":{"10":[6,0],"11":[6,20],"12":[0,0],"13":[30,45]},
          "elements":[{"id":20,"kind":"line","points":[10,11]},{"id":21,"kind":"line","points":[11,13]},{"id":30,"kind":"offset","of":[20,21],"distance":"-1.6 mm","ends":"closed"}]})");
        d["points"].erase("12");
        d["points"]["13"] = {out, 45};
        Made m = make({outline(d, "half", {{"on", "xz"}}), step("revolve", json::object())});
        EXPECT_EQ(m.says(), "");
        ASSERT_EQ(m.part().bodies.size(), 1u);
        // Pappus for the wall's cross-section: 2 pi times the sum of its moment, by the corner formula for polygons.
        double w = 1.6;
        Vec2 u = Vec2(out - 6, 25).normalized(), n(u.y(), -u.x());
        double tip = w * std::tan(std::atan2(n.y(), n.x()) / 2); // the outer corner stands this far below the inner one
        std::vector<Vec2> p{{6, 0}, {6 + w, 0}, {6 + w, 20 + tip}, Vec2(out, 45) + n * w, {out, 45}, {6, 20}};
        double moment = 0;
        for (size_t i = 0; i < p.size(); ++i) {
            const Vec2 &a = p[i], &b = p[(i + 1) % p.size()];
            moment += cross2(a, b) * (a.x() + b.x()) / 6;
        }
        EXPECT_NEAR(m.volume(), 2 * pi * moment, 1e-4) << out;
    }
}
TEST(Revolve, TheSpoutFollowsItsFormula) {
    // Radius r(h) = a + b h^2: volume = pi times the integral of r^2.
    for (double b : {0.01, 0.02}) {
        json d = json::parse(
            R"({"points":{"10":[0,30],"11":[4,0],"12":[13,30]},"elements":[{"kind":"formula","points":[0],"axis":"x of y","expression":"4 + b * h^2","from":"0","to":"30 mm"},
          {"kind":"line","points":[0,11]},{"kind":"line","points":[0,10]},{"kind":"line","points":[10,12]}]})");
        d["points"]["12"] = {4 + b * 900, 30};
        Made m = make({outline(d, "half", {{"on", "xz"}}), step("revolve", json::object())},
                      json::array({{{"name", "b"}, {"expression", std::to_string(b)}, {"kind", "number"}}}));
        EXPECT_EQ(m.says(), "");
        double integral = 16 * 30 + 8 * b * std::pow(30, 3) / 3 + b * b * std::pow(30, 5) / 5;
        EXPECT_NEAR(m.volume(), pi * integral, 1e-4 * pi * integral);
    }
}
TEST(Sweep, AConstantSectionHasAreaTimesLength) {
    // A disc along a line, a quarter arc and a line.
    json path = json::parse(R"({"points":{"10":[0,0],"11":[0,20],"12":[15,20],"13":[15,35],"14":[40,35]},
      "elements":[{"kind":"line","points":[10,11]},{"kind":"arc","points":[12,13,11]},{"kind":"line","points":[13,14]}]})");
    Made m = make({outline(drawn({circle(0, 0, 4)}), "disc"), outline(path, "way", {{"on", "xz"}}),
                   step("sweep", {{"outline", "disc"}, {"path", "way"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), pi * 16 * (20 + 15 * pi / 2 + 25), 0.05);
    Made tight = make({outline(drawn({circle(0, 0, 16)}), "disc"), outline(path, "way", {{"on", "xz"}}),
                       step("sweep", {{"outline", "disc"}, {"path", "way"}})});
    EXPECT_NE(tight.says().find("bends with a radius of 15 mm"), std::string::npos) << tight.says();
}
TEST(Sweep, ATwistedBladeKeepsItsVolumeAndTurnsItsEnd) {
    // Twist about the middle changes no section: Cavalieri.
    json blade = polygon({{-12, -2}, {12, -2}, {12, 2}, {-12, 2}});
    json path = drawn({{{"kind", "line"}, {"points", {{0, 0}, {0, 60}}}}});
    Made m = make({outline(drawn(blade), "section"), outline(path, "way", {{"on", "xz"}}),
                   step("sweep", {{"outline", "section"}, {"path", "way"}, {"twist", "35 deg"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), 24 * 4 * 60, 5);
    // The far corner of the top stands 35 degrees on.
    double best = 1e9;
    Vec3 want(12 * std::cos(radians(35)) - 2 * std::sin(radians(35)),
              12 * std::sin(radians(35)) + 2 * std::cos(radians(35)), 60);
    for (const Vec3& v : m.part().mesh->vertices) best = std::min(best, (v - want).norm());
    EXPECT_LT(best, 0.01);
    // Scaled to half: the frustum of a wedge of similar sections, h / 3 A (1 + 1/2 + 1/4).
    Made scaled = make({outline(drawn(blade), "section"), outline(path, "way", {{"on", "xz"}}),
                        step("sweep", {{"outline", "section"}, {"path", "way"}, {"scale", "0.5"}})});
    EXPECT_EQ(scaled.says(), "");
    EXPECT_NEAR(scaled.volume(), 60.0 / 3 * 96 * 1.75, 1);
}
TEST(Loft, CirclesGiveTheFrustumAndACircleMeetsARoundedRectangle) {
    Made m =
        make({outline(drawn({circle(0, 0, 10)}), "a"), outline(drawn({circle(0, 0, 5)}), "b", {{"distance", "12 mm"}}),
              step("loft", {{"outlines", "a, b"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), pi * 12 / 3 * (100 + 50 + 25), 0.1);
    json rounded = json::parse(
        R"({"points":{"10":[-12,-8],"11":[12,-8],"12":[15,-5],"13":[15,5],"14":[12,8],"15":[-12,8],"16":[-15,5],"17":[-15,-5],"20":[12,-5],"21":[12,5],"22":[-12,5],"23":[-12,-5]},
     "elements":[{"kind":"line","points":[10,11]},{"kind":"arc","points":[20,11,12]},{"kind":"line","points":[12,13]},{"kind":"arc","points":[21,13,14]},{"kind":"line","points":[14,15]},{"kind":"arc","points":[22,15,16]},{"kind":"line","points":[16,17]},{"kind":"arc","points":[23,17,10]}]})");
    Made n = make({outline(drawn({circle(0, 0, 8)}), "a"), outline(rounded, "b", {{"distance", "20 mm"}}),
                   step("loft", {{"outlines", "a, b"}})});
    EXPECT_EQ(n.says(), "");
    double low = pi * 64, high = 30 * 16 - (4 - pi) * 9;
    EXPECT_GT(n.volume(), 20 * low);
    EXPECT_LT(n.volume(), 20 * high);
    EXPECT_NEAR(n.volume(), 20 * (low + high) / 2, 0.1 * 20 * high);
}
TEST(Solids, TheFurtherOnesHaveTheirFormulas) {
    auto volume = [](const std::string& kind, const json& fields) {
        Made m = make(json::array({step(kind, fields)}));
        EXPECT_EQ(m.says(), "") << kind;
        EXPECT_EQ(m.part().bodies.size(), 1u) << kind;
        return m.volume();
    };
    EXPECT_NEAR(volume("half_sphere", {{"diameter", 20}}), 2.0 / 3 * pi * 1000, 1e-4);
    EXPECT_NEAR(volume("dome", {{"diameter", 30}, {"height", 12}}), pi / 2 * 225 * 12,
                1e-3); // half the cylinder round it
    EXPECT_NEAR(volume("ring", {{"diameter", 30}, {"thickness", 6}}), 2 * pi * pi * 12 * 9, 1e-4); // Pappus
    EXPECT_NEAR(volume("ring", {{"diameter", 30}, {"thickness", 6}, {"section", "square"}, {"height", 4}}),
                pi * (225 - 81) * 4, 1e-4);
    EXPECT_NEAR(volume("wedge", {{"size_x", 20}, {"size_y", 10}, {"size_z", 8}}), 800, 1e-6);
    EXPECT_NEAR(volume("wedge", {{"size_x", 20}, {"size_y", 10}, {"size_z", 8}, {"top_x", 5}}), 12.5 * 8 * 10, 1e-6);
    EXPECT_NEAR(volume("pyramid", {{"sides", 4}, {"across", 20}, {"height", 15}}), 400 * 15 / 3.0, 1e-6);
    EXPECT_NEAR(volume("pyramid", {{"sides", 4}, {"across", 20}, {"height", 15}, {"top_across", 10}}),
                15.0 / 3 * (400 + 200 + 100), 1e-6);
}
TEST(Solids, GrowTheirGapsEvenly) {
    // Each body cuts a block with a gap: the pocket's distance to the body is the gap everywhere (measured along
    // facets).
    for (const char* kind : {"half_sphere", "dome", "ring", "wedge", "pyramid"}) {
        json parts = json::array();
        json tool = step(kind, json::object());
        json whole{{"format", "loose-peg"},
                   {"version", 1},
                   {"parts",
                    {{{"name", "T"}, {"steps", json::array({tool})}},
                     {{"name", "B"},
                      {"steps",
                       {step("block", {{"size_x", 60}, {"size_y", 60}, {"size_z", 60}, {"from", "centre"}}),
                        step("cut_with", {{"tool", "T"}, {"fit", "0.3 mm"}})}}}}}};
        auto project = project_from_text(whole.dump());
        ASSERT_TRUE(project);
        Evaluator evaluator;
        auto e = evaluator.evaluate(std::make_shared<const Project>(*project));
        ASSERT_TRUE(e);
        for (const PartResult& p : e->parts) EXPECT_TRUE(p.all_ok()) << kind << ": " << (p.steps.back().says);
        double removed = 216000 - e->parts[1].mass.volume_mm3, own = e->parts[0].mass.volume_mm3,
               area = e->parts[0].mass.area_mm2;
        // Steiner: volume grown by g is V + g A + terms of g^2; sharp corners add a little more.
        EXPECT_GT(removed, own + 0.3 * area) << kind;
        EXPECT_LT(removed, own + 0.3 * area * 1.25) << kind;
    }
}
TEST(OutlineSteps, ABoardFromADxfGetsItsPocketByAFit) {
    std::string dxf = "0\nSECTION\n2\nHEADER\n9\n$INSUNITS\n70\n4\n0\nENDSEC\n0\nSECTION\n2\nENTITIES\n";
    double p[4][2] = {{0, 0}, {40, 0}, {40, 25}, {0, 25}};
    for (int k = 0; k < 4; ++k)
        dxf += "0\nLINE\n8\n0\n10\n" + std::to_string(p[k][0]) + "\n20\n" + std::to_string(p[k][1]) + "\n30\n0\n11\n" +
               std::to_string(p[(k + 1) % 4][0]) + "\n21\n" + std::to_string(p[(k + 1) % 4][1]) + "\n31\n0\n";
    dxf += "0\nCIRCLE\n8\n0\n10\n5\n20\n5\n30\n0\n40\n1.5\n0\nENDSEC\n0\nEOF\n";
    json board{{"id", 20}, {"kind", "import"}, {"points", {0}}, {"file", "board.dxf"}};
    json pocket{{"id", 21}, {"kind", "offset"}, {"of", {20}}, {"distance", "slide"}};
    json with_board{{"elements", {board}}}, with_pocket{{"elements", {board, pocket}}};
    Made plate =
        make({outline(with_board), step("extrude", {{"height", "1.6 mm"}})}, json::object(), {{"board.dxf", dxf}});
    EXPECT_EQ(plate.says(), "");
    EXPECT_NEAR(plate.volume(), (1000 - pi * 2.25) * 1.6, 1e-6);
    // The pocket: everything inside the grown outline, out of a block.
    json choose = "(20, 12.5); (-0.1, 12); (5, 5); (5, 6.4)";
    Made m = make({step("block", {{"size_x", 60}, {"size_y", 45}, {"size_z", 8}, {"at_x", 20}, {"at_y", 12.5}}),
                   outline(with_pocket, "o", {{"distance", "8 mm"}}),
                   step("extrude", {{"regions", "every"}, {"height", "2 mm"}, {"side", "in"}, {"does", "cut"}})},
                  json::object(), {{"board.dxf", dxf}});
    EXPECT_EQ(m.says(), "");
    double gap = 0.25; // slide, standard table, typical printer
    EXPECT_NEAR(m.volume(), 60 * 45 * 8 - (40 + 2 * gap) * (25 + 2 * gap) * 2, 1e-4);
}
TEST(OutlineSteps, AWordRoundACircleIsSunkAndTheRestStaysOneFace) {
    json d = json::parse(
        R"({"elements":[{"id":20,"kind":"circle","points":[0],"radius":16,"construction":true},{"id":21,"kind":"text","points":[0],"of":[20],"text":"LOOSE PEG","size":"5 mm","spacing":"0.6 mm"}]})");
    json disc = step("cylinder", {{"diameter", 60}, {"height", 4}});
    disc["name"] = "disc";
    Made m = make({disc, outline(d, "word", {{"on", "top of disc"}}),
                   step("extrude", {{"height", "0.6 mm"}, {"side", "in"}, {"does", "cut"}})});
    EXPECT_EQ(m.says(), "");
    const Tessellation& t = m.part().bodies[0].body.tessellation();
    size_t tops = 0;
    double letters = 0;
    for (const FaceInfo& f : t.faces) {
        if (f.kind == SurfaceKind::Plane && std::fabs(f.centre.z() - 4) < 1e-6 && f.direction.z() > 0.99 &&
            f.area_mm2 > 100)
            ++tops;
        if (f.kind == SurfaceKind::Plane && std::fabs(f.centre.z() - 3.4) < 1e-6) letters += f.area_mm2;
    }
    EXPECT_EQ(tops, 1u);
    EXPECT_GT(letters, 30);
    EXPECT_NEAR(m.volume(), pi * 900 * 4 - 0.6 * letters, 0.2);
}
TEST(OutlineSteps, BadProfilesAreRefusedAndTheLastGoodStateStays) {
    json block = step("block", json::object());
    for (const json& bad : {step("extrude", {{"height", "10 mm"}}), step("revolve", json::object()),
                            step("sweep", json::object()), step("loft", {{"outlines", "a"}})}) {
        Made none = make({block, bad});
        EXPECT_NE(none.says(), "") << bad;
        EXPECT_NEAR(none.volume(), 8000, 1e-6);
        Made open = make({block, outline(drawn({{{"kind", "line"}, {"points", {{0, 0}, {5, 5}}}}}), "a"), bad});
        EXPECT_NE(open.says(), "") << bad;
        EXPECT_NEAR(open.volume(), 8000, 1e-6);
    }
    Made lost = make({block, outline(drawn({circle(0, 0, 3)})), step("extrude", {{"regions", "(50, 50)"}})});
    EXPECT_NE(lost.says().find("no closed region at 50, 50"), std::string::npos) << lost.says();
    Made missing = make({block, outline(drawn({circle(0, 0, 3)}), "o", {{"on", "top of nowhere"}})});
    EXPECT_NE(missing.says(), "");
}
TEST(OutlineSteps, RenamingANumberReachesIntoDrawings) {
    Made m = make(json::array({outline(tray_drawing(), "plan")}), {{"long", "58 mm"}, {"wall", "2 mm"}});
    auto renamed = apply_edit(*m.project, RenameParameter{"wall", "thick"});
    ASSERT_TRUE(renamed);
    EXPECT_TRUE(uses_of_parameter(*renamed->project, "wall").empty());
    EXPECT_EQ(uses_of_parameter(*renamed->project, "thick").size(), 2u);
    EXPECT_FALSE(apply_edit(*m.project, RemoveParameter{"long"}));
    // Written and read again, the drawing is an object of the file.
    auto again = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(again);
    EXPECT_EQ(drawing_from_text(again->parts[0]->steps[0].fields.at("drawing")).value(),
              drawing_from_text(m.project->parts[0]->steps[0].fields.at("drawing")).value());
    EXPECT_TRUE(project_to_json(*m.project)["parts"][0]["steps"][0]["fields"]["drawing"].is_object());
}
