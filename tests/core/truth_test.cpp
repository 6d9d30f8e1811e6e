// What came out wrong in whole jobs, each as a test of its kind: pushing, copies that are cut, cavities, closed
// triangles after bending, locks along their whole path, posts under round things, sizes that are refused in time.
#include "fit/contacts.h"
#include "formats/stl.h"
#include "made_project.h"
#include "mesh/refine.h"
#include "mesh/soundness.h"
#include "project/analysis.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// Edges that do not have one facet on each side.
size_t open_edges(const TriMesh& mesh) {
    return check_soundness(welded(mesh), {.self_intersections = false}).open_edges.count;
}

} // namespace

// Faces.

TEST(Push, TheOrderOfTheFacesDoesNotMatter) {
    // A cylinder of radius 5 and height 20, both its top and its side out by 1: pi 6^2 21.
    for (const char* faces : {"top of c; side of c", "side of c; top of c"}) {
        Made m = make(
            {step("cylinder", {{"diameter", 10}, {"height", 20}}, "c"), step("push", {{"faces", faces}, {"by", 1}})});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), pi * 36 * 21, 1e-3) << faces;
    }
}
TEST(Fillet, WhatIsMadeForSomeEdgesOnlySaysSo) {
    // A post beside an edge leaves no room for a round of 3 there.
    Made m = make({block(30, 30, 10),
                   step("block", {{"size_x", 30}, {"size_y", 4}, {"size_z", 10}, {"at_y", 15}, {"at_z", 8}}, "w"),
                   step("fillet", {{"edges", "upright"}, {"radius", 3}})});
    const StepOutcome& fillet = m.step(2);
    EXPECT_EQ(fillet.in_part, fillet.ok && fillet.says.find("stay sharp") != std::string::npos) << fillet.says;
}

// Bodies.

TEST(Cut, ABodysCopiesGoWithIt) {
    // Three seats of depth 4 in a plate: the plate less three discs.
    Made m =
        make({step("cylinder", {{"diameter", 100}, {"height", 12}}, "plate"),
              step("cylinder", {{"diameter", 14}, {"height", 30}, {"at_x", 32}, {"at_z", 8}, {"does", "new"}}, "seat"),
              step("repeat_round", {{"what", "seat"}, {"steps", ""}, {"count", 3}, {"does", "new"}}),
              step("cut", {{"what", "seat"}, {"from", "plate"}})});
    ASSERT_EQ(m.says(), "");
    ASSERT_EQ(m.part().bodies.size(), 1u);
    EXPECT_NEAR(m.volume(), pi * 2500 * 12 - 3 * pi * 49 * 4, 1e-2);
}
TEST(Pieces, ACavityIsNotOne) {
    TriMesh hollow = cube(20);
    TriMesh inside = cube(8);
    for (Vec3& v : inside.vertices) v += Vec3(6, 6, 6);
    for (Triangle& t : inside.triangles) std::swap(t[1], t[2]);
    append(hollow, inside);
    EXPECT_EQ(Body::from_mesh(hollow).pieces(), 1);
    TriMesh two = cube(20), beside = cube(8);
    for (Vec3& v : beside.vertices) v += Vec3(40, 0, 0);
    append(two, beside);
    EXPECT_EQ(Body::from_mesh(two).pieces(), 2);
    Made m = make({block(30, 30, 30), step("sphere", {{"diameter", 30}, {"at_z", 15}, {"does", "cut"}}, "c")});
    EXPECT_EQ(m.part().bodies.at(0).body.pieces(), 1) << "a ball that only touches the walls from inside";
}
TEST(Pieces, ACavityThatTouchesTheWallsIsExact) {
    // Closed formulas; the ball touches six walls at a point each, the lying rod four along a line. Afterwards the body
    // goes on like any other.
    const double ball = 4.0 / 3 * pi * 15 * 15 * 15;
    struct Case {
        const char* what;
        json around, tool;
        double volume;
    };
    for (const Case& c :
         {Case{"ball", block(30, 30, 30), step("sphere", {{"diameter", 30}, {"at_z", 15}, {"does", "cut"}}),
               27000 - ball},
          Case{"rod", block(40, 30, 30),
               step("cylinder",
                    {{"diameter", 30}, {"height", 20}, {"along", "x"}, {"at_x", -10}, {"at_z", 15}, {"does", "cut"}}),
               36000 - pi * 225 * 20}}) {
        Made m = make({c.around, c.tool});
        ASSERT_EQ(m.says(), "") << c.what;
        ASSERT_EQ(m.part().bodies.size(), 1u) << c.what;
        EXPECT_TRUE(m.body().is_exact()) << c.what;
        EXPECT_EQ(m.body().pieces(), 1) << c.what;
        EXPECT_NEAR(m.volume(), c.volume, 1e-6 * c.volume) << c.what;
        EXPECT_FALSE(m.body().check_triangles()) << c.what;
        // The body goes on like any other: a hole is drilled through a corner.
        Made drilled =
            make({c.around, c.tool,
                  step("cylinder",
                       {{"diameter", 2}, {"height", 40}, {"at_x", 13}, {"at_y", 13}, {"at_z", -5}, {"does", "cut"}})});
        EXPECT_EQ(drilled.says(), "") << c.what;
        EXPECT_TRUE(drilled.body().is_exact()) << c.what;
        EXPECT_NEAR(drilled.volume(), c.volume - pi * 30, 1e-6 * c.volume) << c.what;
    }
    // Flush with the top is no cavity: the cut opens it, as ever.
    Made open = make({block(30, 30, 30),
                      step("block", {{"size_x", 10}, {"size_y", 10}, {"size_z", 10}, {"at_z", 20}, {"does", "cut"}})});
    EXPECT_NEAR(open.volume(), 26000, 1e-6);
    EXPECT_EQ(open.step(1).says, "");
}
TEST(BringIn, ABodyIsCalledAsItsStep) {
    Made m = make({step("bring_in", {{"file", "c.stl"}}, "raw"), step("move", {{"what", "raw"}, {"by_x", 3}})},
                  json::object(), {{"c.stl", write_stl_binary(cube(10))}});
    EXPECT_EQ(m.says(), "");
    EXPECT_EQ(m.part().bodies.at(0).called(), "raw");
}

// Triangles.

TEST(Parting, FacetsWithACornerOnThePlaneKeepBothTheirPieces) {
    std::mt19937 random(9);
    for (int round = 0; round < 40; ++round) {
        TriMesh mesh = round % 2 ? cube(10) : sphere(5, 6);
        const double place =
            round % 4 < 2 ? mesh.vertices[random() % mesh.vertices.size()].x() : double(random() % 100) / 12;
        // Turned so that corners lie on the plane and beside it.
        Transform turn = Transform::Identity();
        if (round > 8) turn.rotate(Eigen::AngleAxisd(double(random() % 628) / 100, Vec3(1, 2, 3).normalized()));
        mesh = transformed(mesh, turn);
        const double at = round > 8 ? mesh.vertices[random() % mesh.vertices.size()].x() : place;
        const TriMesh parted = parted_at(mesh, 0, {at});
        EXPECT_TRUE(is_closed(parted)) << round;
        EXPECT_NEAR(mass_properties(parted).volume_mm3, mass_properties(mesh).volume_mm3, 1e-6) << round;
        EXPECT_NEAR(mass_properties(parted).area_mm2, mass_properties(mesh).area_mm2, 1e-6) << round;
    }
}
TEST(Bending, NothingIsLeftOpen) {
    const json bent[] = {json::array({step("block", {{"size_x", 60}, {"size_z", 3}}),
                                      step("cylinder", {{"at_x", 5}, {"does", "cut"}}), step("bend", json::object())}),
                         json::array({step("cone", json::object()), step("twist", {{"along", "y"}})}),
                         json::array({step("sphere", json::object()), step("taper", {{"along", "z"}})}),
                         json::array({block(20, 10, 30), step("skew", json::object())})};
    for (const json& steps : bent) {
        Made m = make(steps);
        if (!m.says().empty()) continue; // refused by name is no hole
        EXPECT_EQ(open_edges(*m.part().mesh), 0u) << steps.dump();
    }
}
TEST(Bending, WhatWouldTakeForEverIsRefusedAtOnce) {
    auto never = refined(cube(100), [](const Vec3&, const Vec3&) { return 0.01; });
    ASSERT_FALSE(never);
    EXPECT_NE(never.error().sentence.find("two million"), std::string::npos);
    // A map that tears at a place: no halving would end there.
    auto torn = refined(cube(1), [](const Vec3& at, const Vec3&) { return at.norm() < 0.5 ? 1e-6 : 1.0; });
    EXPECT_FALSE(torn);
}
TEST(Repeating, MoreCopiesThanMemoryHoldsAreRefusedBeforeTheyAreMade) {
    Made m = make({block(20, 20, 20),
                   step("repeat", {{"count", 300}, {"rows", 300}, {"by_x", "25"}, {"row_y", "25"}, {"many", "yes"}})});
    EXPECT_NE(m.says().find("more than fit into memory"), std::string::npos) << m.says();
    EXPECT_NEAR(m.volume(), 8000, 1e-6) << "what was there stays";
}

// Fits.

TEST(TwistLock, TheGapIsKeptAllAlongThePathForLugsOfAnyWidth) {
    // The cap is led back along its groove from where the lugs are; the gap is measured between the meshes at each
    // place.
    for (double width : {3.0, 8.0}) {
        const double gap = 0.35, radius = 18;
        const json lock{{"radius", radius},  {"depth", 2}, {"width", width}, {"count", 3},
                        {"side", "outward"}, {"angle", 0}, {"at_z", 8}};
        json groove = lock;
        groove["legs"] = "turn -50, slide 14";
        groove["fit"] = std::to_string(gap);
        Made m = make_parts(
            {{"Flask", json::array({step("cylinder", {{"diameter", 2 * radius}, {"height", 16}}, "neck"),
                                    step("lock_lugs", lock)})},
             {"Cap",
              json::array(
                  {step("cylinder", {{"diameter", 2 * radius + 12}, {"height", 18}}, "cap"),
                   step("cylinder", {{"diameter", 2 * (radius + gap)}, {"height", 30}, {"at_z", -5}, {"does", "cut"}},
                        "bore"),
                   step("lock_groove", groove)})}});
        ASSERT_EQ(m.says(), "");
        const DistanceTree flask(*m.evaluation.parts[0].mesh), cap(*m.evaluation.parts[1].mesh);
        for (int k = 0; k <= 40; ++k) {
            // The lugs go along the groove, so the cap goes the other way: first it turns, then it is lifted off.
            Transform move = Transform::Identity();
            const double turned = std::min(1.0, k / 25.0) * 50, slid = std::max(0.0, (k - 25) / 15.0) * 14;
            move.rotate(Eigen::AngleAxisd(radians(turned), Vec3::UnitZ()));
            move.pretranslate(Vec3(0, 0, -slid));
            const double found = closest_pair(cap, move, flask).distance_mm;
            EXPECT_GT(found, gap - 0.02) << width << " mm wide, place " << k; // facets stand 0.01 inside their rounds
            EXPECT_LT(found, gap + 0.02) << width << " mm wide, place " << k;
        }
    }
}

// Supports.

TEST(Posts, KeepTheGapUnderRoundThings) {
    // A ball and a lying rod over the bed: no post nearer than the contact gap anywhere, none through them.
    Made m =
        make({step("sphere", {{"diameter", 30}, {"at_z", 20}}),
              step("cylinder",
                   {{"diameter", 12}, {"height", 60}, {"along", "x"}, {"at_y", 40}, {"at_z", 12}, {"does", "new"}})});
    ASSERT_EQ(m.says(), "");
    const SupportOptions options;
    Supports supports = make_supports(*m.part().mesh, options);
    ASSERT_GT(supports.posts.size(), 4u);
    const DistanceTree part(*m.part().mesh);
    ClosestPair nearest = closest_pair(DistanceTree(supports.mesh), part);
    EXPECT_GT(nearest.distance_mm, options.contact_gap_mm - 2e-3);
    EXPECT_LT(nearest.distance_mm, options.contact_gap_mm + 5e-3) << "some post still carries";
    for (const Vec3& v : supports.mesh.vertices) EXPECT_FALSE(part.inside(v));
}

// Numbers.

TEST(Expressions, RatiosOfLengthsMakeAngles) {
    ParameterValues values{
        {"len", {60, QuantityKind::Length}}, {"pitch", {4, QuantityKind::Length}}, {"turn", {30, QuantityKind::Angle}}};
    auto angle = [&](const std::string& text) { return evaluate_expression(text, QuantityKind::Angle, values); };
    auto length = [&](const std::string& text) { return evaluate_expression(text, QuantityKind::Length, values); };
    EXPECT_NEAR(angle("360*len/pitch").value(), 5400, 1e-9);
    EXPECT_NEAR(angle("atan2(pitch, len) + turn").value(), degrees(std::atan2(4, 60)) + 30, 1e-9);
    EXPECT_NEAR(length("len * sin(turn)").value(), 30, 1e-9);
    EXPECT_NEAR(length("sqrt(len * len + pitch^2)").value(), std::sqrt(3616), 1e-9);
    EXPECT_NEAR(length("len * turn / turn").value(), 60, 1e-9);
    for (const char* wrong : {"len", "turn + pitch", "len * pitch / pitch"}) EXPECT_FALSE(angle(wrong)) << wrong;
    for (const char* wrong : {"turn", "len + turn", "30 deg"}) EXPECT_FALSE(length(wrong)) << wrong;
}
TEST(Expressions, FunctionsOfTheTrade) {
    auto number = [](const std::string& text) { return evaluate_expression(text, QuantityKind::Number, {}); };
    EXPECT_NEAR(number("ln(exp(2))").value(), 2, 1e-12);
    EXPECT_NEAR(number("log(1000)").value(), 3, 1e-12);
    EXPECT_NEAR(number("if(3 > 2, 10, 20) + max(1, 5, 2) - min(4, 3) + round(2.6)").value(), 15, 1e-12);
    EXPECT_FALSE(number("if(1, 2)"));
    auto taken = check_parameter_name("log");
    ASSERT_TRUE(taken);
    EXPECT_NE(taken->sentence.find("function"), std::string::npos);
    // Deep and hostile texts end in a sentence.
    EXPECT_FALSE(evaluate_expression(std::string(240, '(') + "1" + std::string(240, '('), QuantityKind::Angle, {}));
    EXPECT_FALSE(evaluate_expression(std::string(480, '-'), QuantityKind::Length, {}));
}
TEST(Expressions, AnAngleInTheShortFormOfParametersIsOne) {
    Made m = make({block(10, 10, 10), step("turn", {{"what", "b"}, {"angle", "a"}, {"axis", "z"}})},
                  {{"a", "30 deg"}, {"w", "2 mm"}});
    EXPECT_EQ(m.says(), "");
    EXPECT_FALSE(m.evaluation.parameter_problem);
    EXPECT_EQ(m.project->parameters[0].kind, QuantityKind::Angle);
    EXPECT_EQ(m.project->parameters[1].kind, QuantityKind::Length);
}

// Reasons.

TEST(Reasons, WhatFollowsAFailedOutlinePointsToIt) {
    json lines = json::array();
    lines.push_back({{"kind", "line"}, {"points", json::array({json::array({0, 0}), json::array({10, 0})})}});
    Made m = make({step("outline", {{"drawing", {{"elements", lines}}}, {"distance", "nowhere"}}),
                   step("extrude", {{"height", 5}})});
    ASSERT_FALSE(m.step(0).ok);
    EXPECT_NE(m.step(1).says.find("see step 1"), std::string::npos) << m.step(1).says;
    Made none = make(json::array({step("extrude", {{"height", 5}})}));
    EXPECT_NE(none.step(0).says.find("Draw one first"), std::string::npos) << none.step(0).says;
}
TEST(Twist, FacetsAreAsManyAsTheToleranceAsks) {
    // A round bar of radius 8, two turns in 8 mm: about 125 chords round, 57 levels at 0.05.
    std::vector<std::array<double, 2>> p;
    json lines = json::array();
    for (int i = 0; i < 60; ++i)
        p.push_back({8 * std::cos(pi * i / 30) * (1 + 0.08 * (i % 2)), 8 * std::sin(pi * i / 30)});
    for (size_t i = 0; i < p.size(); ++i)
        lines.push_back({{"kind", "line"}, {"points", {p[i], p[(i + 1) % p.size()]}}});
    Made m = make({step("outline", {{"drawing", {{"elements", lines}}}}, "o"), step("extrude", {{"height", 8}}, "b"),
                   step("twist", {{"what", "b"}, {"angle", 720}, {"to", 8}, {"tolerance", 0.05}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_LT(m.part().mesh->triangles.size(), 25000u);
    double area = 0;
    for (size_t i = 0; i < p.size(); ++i)
        area += (p[i][0] * p[(i + 1) % p.size()][1] - p[i][1] * p[(i + 1) % p.size()][0]) / 2;
    EXPECT_NEAR(m.volume(), area * 8, 0.01 * area * 8) << "a twist keeps every section";
}

// Contacts.

TEST(Contacts, ACopyLiesInItsSourceWithoutOverlappingIt) {
    Made m = make_parts(
        {{"Vial", json::array({step("cylinder", {{"diameter", 10}, {"height", 30}}, "stem")})},
         {"Second", json::array({step("take", {{"from", "Vial"}})})},
         {"Rack",
          json::array({block(30, 30, 4, "base"),
                       step("cylinder", {{"diameter", 10.6}, {"height", 9}, {"at_z", -2}, {"does", "cut"}})})}});
    ASSERT_EQ(m.says(), "");
    auto contacts = ContactLedger().contacts(m.evaluation);
    for (const ContactResult& c : contacts) EXPECT_NE(c.state, FitState::Overlapping) << c.a << " and " << c.b;
    EXPECT_EQ(contacts.size(), 2u) << "both stand in the rack";
}
TEST(Contacts, AWantedFitThatAStepMakesIsOneContact) {
    const json lock{{"radius", 18}, {"depth", 2}, {"width", 4}, {"count", 3}, {"at_z", 8}};
    json groove = lock;
    groove["legs"] = "turn -50, slide 14";
    groove["fit"] = "0.35";
    json whole{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts",
         json::array(
             {{{"name", "Flask"},
               {"steps", json::array({step("cylinder", {{"diameter", 36}, {"height", 16}}), step("lock_lugs", lock)})}},
              {{"name", "Cap"},
               {"steps",
                json::array({step("cylinder", {{"diameter", 48}, {"height", 18}}),
                             step("cylinder", {{"diameter", 36.7}, {"height", 30}, {"at_z", -5}, {"does", "cut"}}),
                             step("lock_groove", groove)})}}})},
        {"contacts", json::array({{{"a", "Flask"}, {"b", "Cap"}, {"fit", "0.35"}}})}};
    auto project = project_from_text(whole.dump());
    ASSERT_TRUE(project);
    auto evaluation = Evaluator().evaluate(std::make_shared<const Project>(*project));
    ASSERT_TRUE(evaluation);
    auto contacts = ContactLedger().contacts(*evaluation);
    ASSERT_EQ(contacts.size(), 1u);
    EXPECT_EQ(contacts[0].state, FitState::Right);
    EXPECT_NEAR(contacts[0].gap->min_mm, 0.35, 0.01);
}
