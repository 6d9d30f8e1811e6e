// What follows the model: kept measurements, places in the assembly, variants. And the steps that came with them.
#include "made_project.h"
#include "mesh/refine.h"
#include "mesh/soundness.h"
#include "project/analysis.h"
#include "shape/kernel_guard.h"

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A reference to the face of a part's only body that looks a way and lies farthest along it.
std::string face_towards(const Body& body, const Vec3& way, const Vec3& at = Vec3::Zero()) {
    const auto& faces = body.tessellation().faces;
    size_t best = 0;
    double far = -1e300;
    for (size_t f = 0; f < faces.size(); ++f)
        if (faces[f].kind == SurfaceKind::Plane && faces[f].direction.dot(way) > 0.99 && faces[f].centre.dot(way) > far)
            far = faces[f].centre.dot(way), best = f;
    return reference_text(make_reference(body, best, at.isZero() ? faces[best].centre : at));
}

Made again(const Made& made, const Edit& edit) {
    auto edited = apply_edit(*made.project, edit);
    EXPECT_TRUE(edited) << (edited ? "" : edited.error().text());
    Made next;
    next.project = edited->project;
    auto evaluation = Evaluator().evaluate(next.project);
    EXPECT_TRUE(evaluation);
    next.evaluation = std::move(*evaluation);
    return next;
}

Made through_the_file(const Made& made) {
    auto project = project_from_text(project_to_json(*made.project).dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    Made next;
    next.project = std::make_shared<const Project>(*project);
    next.evaluation = *Evaluator().evaluate(next.project);
    return next;
}

} // namespace

TEST(Measure, DistancesAnglesAndCentresFollowTheNumbers) {
    Made m = make_parts({{"A", json::array({block(20, 20, 10)})},
                         {"B", json::array({step("cylinder", {{"diameter", 6}, {"height", 10}, {"at_x", 40}})})}});
    KeptMeasure across{{}, {m.part(0).part, face_towards(m.part(0).bodies[0].body, Vec3::UnitX())}, {}};
    across.b = MeasuredThing{m.part(1).part, ""};
    m = again(m, AddMeasure{across});
    auto analysed = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(analysed);
    ASSERT_EQ(analysed->measures.size(), 1u);
    ASSERT_TRUE(analysed->measures[0].found) << analysed->measures[0].lost;
    EXPECT_NEAR(analysed->measures[0].found->distance_mm, 40 - 3 - 10, 0.01) << "facets of the cylinder";
    m = again(m, SetField{m.part(0).part, m.project->parts[0]->steps[0].id, "size_x", "30 mm"});
    m = through_the_file(m);
    analysed = Analyser().analyse(m.evaluation);
    ASSERT_TRUE(analysed->measures.at(0).found);
    EXPECT_NEAR(analysed->measures[0].found->distance_mm, 40 - 3 - 15, 0.01);
    // What it was measured on is taken away: said, not guessed.
    m = again(m, SwitchStep{m.part(0).part, m.project->parts[0]->steps[0].id, false});
    analysed = Analyser().analyse(m.evaluation);
    EXPECT_FALSE(analysed->measures.at(0).found);
    EXPECT_FALSE(analysed->measures[0].lost.empty());
    Edit gone = RemovePart{m.part(0).part};
    EXPECT_TRUE(again(m, gone).project->measures.empty()) << "a measurement of a part goes with it";
}

TEST(Measure, TheWallAtAPlaceFollowsTheShell) {
    Made m = make({block(40, 30, 20), step("shell", {{"wall", "2 mm"}, {"open", "top of b"}})});
    ASSERT_EQ(m.says(), "");
    std::string side = face_towards(m.body(), Vec3::UnitX(), Vec3(20, 5, 12));
    m = again(m, AddMeasure{{{}, {m.part().part, side}, {}}});
    auto found = Analyser().analyse(m.evaluation)->measures.at(0).found;
    ASSERT_TRUE(found);
    EXPECT_NEAR(found->distance_mm, 2, 1e-6);
    m = again(m, SetField{m.part().part, m.project->parts[0]->steps[1].id, "wall", "3.5 mm"});
    found = Analyser().analyse(m.evaluation)->measures.at(0).found;
    ASSERT_TRUE(found);
    EXPECT_NEAR(found->distance_mm, 3.5, 1e-6);
}

TEST(Measure, BetweenEdgesFacesAndRoundThings) {
    Made m = make_parts(
        {{"A", json::array({step("cylinder", {{"diameter", 10}, {"height", 20}})})},
         {"B", json::array(
                   {step("cylinder", {{"diameter", 4}, {"height", 20}, {"at_x", 30}, {"at_y", 40}, {"at_z", 3}})})}});
    auto round = [&](size_t part) {
        const Body& body = m.part(part).bodies[0].body;
        const auto& faces = body.tessellation().faces;
        for (size_t f = 0; f < faces.size(); ++f)
            if (faces[f].kind == SurfaceKind::Cylinder) return Measurable{body, Measurable::Kind::Face, f};
        return Measurable{body};
    };
    Measured found = measure_between(round(0), round(1));
    ASSERT_TRUE(found.centres_mm && found.angle_deg);
    EXPECT_NEAR(*found.centres_mm, 50, 1e-9) << "3, 4, 5";
    EXPECT_NEAR(*found.angle_deg, 0, 1e-9);
    EXPECT_NEAR(found.distance_mm, 50 - 5 - 2, 0.03) << "facets lie inside the circle by the deflection";
    Measurable turned = round(1);
    turned.place.rotate(Eigen::AngleAxisd(radians(30), Vec3::UnitX()));
    EXPECT_NEAR(*measure_between(round(0), turned).angle_deg, 30, 1e-9);
}

TEST(Assembly, ACutFollowsWhereItsToolStands) {
    auto parts = [](const char* x) {
        json host{{"name", "Host"},
                  {"steps", json::array({block(40, 40, 10), step("cut_with", {{"tool", "Pin"}, {"fit", "0.3 mm"}})})}};
        json pin{{"name", "Pin"},
                 {"steps", json::array({step("cylinder", {{"diameter", 6}, {"height", 30}, {"at_z", -5}})})},
                 {"place", {{"at", {x, "0 mm", "0 mm"}}, {"turn", {"0 deg", "0 deg", "0 deg"}}}}};
        return json{{"format", "loose-peg"}, {"version", 1}, {"parts", {host, pin}}};
    };
    for (auto [x, hole_at] : {std::pair("0 mm", 0.0), std::pair("7 mm", 7.0)}) {
        auto project = project_from_text(parts(x).dump());
        ASSERT_TRUE(project) << project.error().text();
        auto made = Evaluator().evaluate(std::make_shared<const Project>(*project));
        ASSERT_TRUE(made);
        const PartResult& host = made->parts[0];
        double hole = pi * 3.3 * 3.3 * 10;
        EXPECT_NEAR(host.mass.volume_mm3, 16000 - hole, 1e-6);
        EXPECT_NEAR(host.mass.centre.x(), -hole * hole_at / (16000 - hole), 1e-6) << "the hole is where the pin is";
        EXPECT_NEAR(made->parts[1].mass.centre.x(), 0, 1e-9) << "its drawing stays";
        auto contacts = Analyser().contacts(*made);
        ASSERT_EQ(contacts.size(), 1u);
        EXPECT_EQ(contacts[0].state, FitState::Right);
        EXPECT_NEAR(contacts[0].gap->min_mm, 0.3, 0.02);
        EXPECT_NEAR(contacts[0].gap->at_a.x(), hole_at, 3.4);
    }
    auto broken = parts("seven");
    auto project = project_from_text(broken.dump());
    if (project) { // read, but not placed by nonsense
        auto place = assembly_transform(project->parts[1]->place, {});
        EXPECT_FALSE(place);
        EXPECT_FALSE(apply_edit(*project, SetPlace{project->parts[1]->id, project->parts[1]->place}));
    }
}

TEST(Assembly, TurnsAboutXThenYThenZThenMoves) {
    AssemblyPlace place;
    place.at = {"10 mm", "0 mm", "0 mm"};
    place.turn = {"90 deg", "0 deg", "90 deg"};
    auto t = assembly_transform(place, {});
    ASSERT_TRUE(t);
    // y goes to z by the first, stays there; x goes to y by the last.
    EXPECT_TRUE((*t * Vec3(0, 1, 0)).isApprox(Vec3(10, 0, 1)));
    EXPECT_TRUE((*t * Vec3(1, 0, 0)).isApprox(Vec3(10, 1, 0)));
}

TEST(Variants, KeepTheNumbersAndBringThemBack) {
    Made m = make(
        {block(20, 10, 5), step("cylinder", {{"diameter", "bore"}, {"height", 20}, {"at_z", -5}, {"does", "cut"}})},
        {{"bore", "4 mm"}, {"unused", "9 mm"}});
    double small = m.volume();
    PartId part = m.part().part;
    m = again(m, KeepVariant{part, "small"});
    EXPECT_FALSE(m.project->parts[0]->variants[0].numbers.count("unused"));
    m = again(m, SetParameter{"bore", "6 mm", {}, {}});
    m = again(m, SetField{part, m.project->parts[0]->steps[0].id, "size_z", "8 mm"});
    m = again(m, KeepVariant{part, "large"});
    double large = m.volume();
    EXPECT_NEAR(large, 200 * 8 - pi * 9 * 8, 1e-6);
    m = through_the_file(m);
    m = again(m, UseVariant{part, "small"});
    EXPECT_NEAR(m.volume(), small, 1e-9);
    // Compared without being used.
    const Variant& other = m.project->parts[0]->variants.at(1);
    auto with = std::make_shared<const Project>(with_variant(*m.project, part, other));
    auto made = Evaluator().evaluate(with);
    PartFigures figures = figures_of(*made, part);
    EXPECT_NEAR(figures.volume_mm3, large, 1e-9);
    EXPECT_NEAR(figures.size_mm.z(), 8, 1e-9);
    EXPECT_GT(figures.time_s, 0);
    EXPECT_EQ(figures.problem, "");
    EXPECT_FALSE(apply_edit(*m.project, UseVariant{part, "none such"}));
    EXPECT_FALSE(apply_edit(*m.project, KeepVariant{part, ""}));
    EXPECT_EQ(again(m, RemoveVariant{part, "small"}).project->parts[0]->variants.size(), 1u);
    // A renamed number is renamed in the variants too.
    Made renamed = again(m, RenameParameter{"bore", "hole_d"});
    EXPECT_TRUE(renamed.project->parts[0]->variants[1].numbers.count("hole_d"));
    renamed = again(renamed, UseVariant{part, "large"});
    EXPECT_NEAR(renamed.volume(), large, 1e-9);
}

TEST(FullRound, TakesWhatIsNotTheHalfCylinder) {
    // A rib of width w and length l loses (1 - pi/4) of a square of half its width on both sides (elementary geometry).
    Made rib = make({block(30, 6, 20), step("full_round", {{"face", "top of b"}})});
    EXPECT_NEAR(rib.volume(), 30 * 6 * 20 - 2 * (1 - pi / 4) * 9 * 30, 1e-6) << rib.says();
    bool flat_top = false;
    for (const FaceInfo& f : rib.body().tessellation().faces)
        flat_top = flat_top || (f.kind == SurfaceKind::Plane && f.direction.z() > 0.99);
    EXPECT_FALSE(flat_top);
    // Leaning walls: the circle that touches all three planes. Wedge with a top 4 wide, walls leaning by 10 degrees.
    Made lean = make({block(30, 8, 20), step("draft", {{"faces", "front of b; back of b"}, {"angle", "10 deg"}}),
                      step("full_round", {{"face", "top of b"}})});
    ASSERT_EQ(lean.says(), "");
    double top = 8 - 2 * 20 * std::tan(radians(10)), r = 0;
    r = top / 2 /
        std::tan(radians((90 + 10) / 2.0)); // tangent lengths from the edges: r = half width x tan(half angle)
    r = top / 2 * std::tan(radians((90 + 10) / 2.0));
    double highest = -1e9, found_r = 0;
    for (const FaceInfo& f : lean.body().tessellation().faces)
        if (f.kind == SurfaceKind::Cylinder) found_r = f.radius_mm;
    for (const Vec3& v : lean.body().mesh().vertices) highest = std::max(highest, v.z());
    EXPECT_NEAR(found_r, r, 1e-6);
    EXPECT_NEAR(highest, 20, 0.01) << "facets touch the top but for their deflection";
    Made low = make({block(30, 20, 4), step("full_round", {{"face", "top of b"}})});
    EXPECT_NE(low.says().find("below the walls"), std::string::npos) << low.says();
    EXPECT_NEAR(low.volume(), 30 * 20 * 4, 1e-9) << "the last good body stays";
    Made disc =
        make({step("cylinder", {{"diameter", 20}, {"height", 5}}, "c"), step("full_round", {{"face", "top of c"}})});
    EXPECT_NE(disc.says(), "");
}

TEST(PointToPoint, BringsCentresEndsAndPlacesTogether) {
    json pin = step("cylinder", {{"diameter", 4}, {"height", 12}, {"at_x", 50}, {"at_y", 9}, {"does", "new"}}, "pin");
    Made before = make({block(20, 20, 10), pin});
    const Body& body = before.body(1);
    std::string rim; // the pin's lower rim
    for (size_t e = 0; e < body.tessellation().edges.size(); ++e) {
        const auto& points = body.tessellation().edges[e].points;
        if (points.size() > 8 && points[0].z() < 0.1) rim = reference_text(make_edge_reference(body, e, points[3]));
    }
    ASSERT_FALSE(rim.empty());
    Made m = make({block(20, 20, 10), pin, step("meet", {{"point", rim}, {"goal", "top of b"}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_TRUE(m.body(1).mass().centre.isApprox(Vec3(0, 0, 16), 1e-9)) << m.body(1).mass().centre.transpose();
    Made typed =
        make({block(20, 20, 10), pin, step("meet", {{"point", rim}, {"goal", "5, -3 mm, 2 + 1"}, {"off_z", "1 mm"}})});
    EXPECT_TRUE(typed.body(1).mass().centre.isApprox(Vec3(5, -3, 10), 1e-9)) << typed.says();
    Made same = make({block(20, 20, 10), step("meet", {{"point", "bottom of b"}, {"goal", "top of b"}})});
    EXPECT_NE(same.says().find("one body"), std::string::npos) << same.says();
    Made none = make({block(20, 20, 10), step("meet", {{"point", "1, 2, 3"}, {"goal", "top of b"}})});
    EXPECT_NE(none.says(), "");
}

TEST(Skew, OverAStretchLeavesWhatIsBelowAndCarriesWhatIsAbove) {
    Made m = make({block(10, 10, 30), step("skew", {{"angle", "45 deg"}, {"from", "10 mm"}, {"over", "8 mm"}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), 3000, 1e-6) << "Cavalieri";
    Box3 box = m.body().box();
    EXPECT_NEAR(box.min().x(), -5, 1e-9);
    EXPECT_NEAR(box.max().x(), 5 + 8, 1e-9);
    // The centre goes along by 4 for the middle of the stretch and by 8 above it.
    EXPECT_NEAR(m.body().mass().centre.x(), (8 * 4 + 12 * 8) / 30.0, 1e-9);
    EXPECT_TRUE(check_soundness(m.body().mesh()).sound());
}

TEST(PartedAt, NoFacetRunsAcrossAndNothingElseChanges) {
    Made ball = make(json::array({step("sphere", {{"diameter", 20}})}));
    const TriMesh& mesh = ball.body().mesh();
    for (double z : {-3.3, 0.0, 4.0, 9.99, 50.0}) {
        TriMesh parted = parted_at(mesh, 2, {z});
        EXPECT_TRUE(check_soundness(parted).sound()) << z;
        EXPECT_NEAR(mass_properties(parted).volume_mm3, mass_properties(mesh).volume_mm3, 1e-6);
        for (const Triangle& t : parted.triangles) {
            bool low = false, high = false;
            for (uint32_t v : t) {
                low = low || parted.vertices[v].z() < z - 1e-5;
                high = high || parted.vertices[v].z() > z + 1e-5;
            }
            EXPECT_FALSE(low && high);
        }
    }
}

TEST(Split, ByARoundFaceKeepsInsideAndOutside) {
    json core = step("cylinder", {{"diameter", 12}, {"height", 4}, {"at_z", 20}, {"does", "new"}}, "core");
    Made m = make({block(30, 30, 10), core, step("split", {{"what", "b"}, {"by", "side of core"}})});
    ASSERT_EQ(m.says(), "");
    ASSERT_EQ(m.part().bodies.size(), 3u);
    EXPECT_NEAR(m.body(0).mass().volume_mm3, pi * 36 * 10, 1e-6) << "inside the cylinder carried on";
    EXPECT_NEAR(m.body(2).mass().volume_mm3, 9000 - pi * 36 * 10, 1e-6);
    Made wider =
        make({block(30, 30, 10), core,
              step("split", {{"what", "b"}, {"by", "side of core"}, {"distance", "2 mm"}, {"keep", "above"}})});
    EXPECT_NEAR(wider.body(0).mass().volume_mm3, 9000 - pi * 64 * 10, 1e-6) << wider.says();
    Made ball = make({block(30, 30, 10), step("sphere", {{"diameter", 16}, {"does", "new"}}, "ball"),
                      step("split", {{"what", "b"}, {"by", "side of ball"}, {"keep", "below"}})});
    ASSERT_EQ(ball.says(), "");
    EXPECT_NEAR(ball.body(0).mass().volume_mm3, 2.0 / 3 * pi * 512, 1e-3) << "half of it lies in the block";
    Made misses = make({block(30, 30, 10),
                        step("cylinder", {{"diameter", 12}, {"height", 4}, {"at_x", 90}, {"does", "new"}}, "core"),
                        step("split", {{"what", "b"}, {"by", "side of core"}})});
    EXPECT_NE(misses.says().find("misses"), std::string::npos) << misses.says();
}

TEST(Evaluation, ACrashOfTheKernelIsTriedAgain) {
    auto project = project_from_text(json{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts", json::array({{{"name", "P"},
                                {"steps", json::array({block(10, 10, 10),
                                                       step("fillet", {{"edges", "all"}, {"radius", "1 mm"}})})}}})}}
                                         .dump());
    ASSERT_TRUE(project);
    auto shared = std::make_shared<const Project>(*project);
    Evaluator evaluator;
    kernel_stand_in("crash");
    auto first = evaluator.evaluate(shared);
    ASSERT_TRUE(first);
    kernel_stand_in("");
    auto second = evaluator.evaluate(shared);
    ASSERT_TRUE(second && second->parts[0].all_ok()) << "the same snapshot works once the kernel does";
}

TEST(Evaluation, ALyingKernelIsFoundOutThoughChecksRunLate) {
    Made honest = make({block(20, 20, 10), step("fillet", {{"edges", "upright"}, {"radius", "2 mm"}}),
                        step("push", {{"faces", "top of b"}, {"by", "3 mm"}})});
    ASSERT_EQ(honest.says(), "");
    kernel_stand_in("lie");
    Made m = make({block(20, 20, 10), step("fillet", {{"edges", "upright"}, {"radius", "2 mm"}}),
                   step("push", {{"faces", "top of b"}, {"by", "3 mm"}})});
    kernel_stand_in("");
    // Either it was found out and the next call made it right, or the step says so; never a wrong body.
    if (m.says().empty()) {
        EXPECT_NEAR(m.volume(), honest.volume(), 1e-6);
    }
    EXPECT_TRUE(check_soundness(m.body().mesh()).sound());
}
