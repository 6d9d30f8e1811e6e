// Working the solid: blends, shells, drafts, pushes. Against closed formulas (from memory, elementary geometry).
#include "made_project.h"
#include "shape/exact_shape.h"
#include <BRepAdaptor_Surface.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

double rounded_box(double a, double b, double c, double r) { // all edges and corners rounded (Steiner)
    double x = a - 2 * r, y = b - 2 * r, z = c - 2 * r;
    return x * y * z + 2 * r * (x * y + y * z + z * x) + pi * r * r * (x + y + z) + 4.0 / 3 * pi * r * r * r;
}

} // namespace

TEST(Fillet, UprightEdgesOfABoxLoseTheirCorners) {
    Made m = make({block(60, 40, 30), step("fillet", {{"edges", "upright"}, {"radius", 5}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), 60 * 40 * 30 - (4 - pi) * 25 * 30, 1e-6);
    EXPECT_EQ(m.body().tessellation().faces.size(), 10u);
}

TEST(Fillet, AllEdgesGiveTheBoxGrownFromASmallerOne) {
    for (double r : {1.0, 4.0, 9.5}) {
        Made m = make({block(60, 40, 20), step("fillet", {{"edges", "all"}, {"radius", r}})});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), rounded_box(60, 40, 20, r), 1e-3) << r;
        EXPECT_EQ(m.body().tessellation().faces.size(), 26u); // 6 faces, 12 edges, 8 corners
    }
}

TEST(Fillet, TheRimOfACylinderFollowsPappus) {
    double R = 12, r = 3;
    Made m = make({step("cylinder", {{"diameter", 24}, {"height", 20}}, "rod"),
                   step("fillet", {{"edges", "of top of rod"}, {"radius", r}})});
    EXPECT_EQ(m.says(), "");
    double ring = pi * (R * R - (R - r) * (R - r)) * r, kept = 2 * pi * (R - r + 4 * r / (3 * pi)) * pi * r * r / 4;
    EXPECT_NEAR(m.volume(), pi * R * R * 20 - ring + kept, 1e-4);
}

TEST(Fillet, ADiameterTypedForItsRadiusIsHalved) {
    // Four upright rounds of 3 mm: each corner loses (4 - pi) / 4 of its square.
    Made m = make({block(30, 20, 10), step("fillet", {{"edges", "upright"}, {"radius", "⌀6"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), 10 * (600 - (4 - std::numbers::pi) * 9), 1e-6);
    // A diameter typed for a diameter is what it says.
    Made rod = make(json::array({step("cylinder", {{"diameter", "⌀6"}, {"height", 10}})}));
    EXPECT_NEAR(rod.volume(), std::numbers::pi * 90, 1e-6);
}

TEST(Fillet, ARadiusThatChangesTakesTheMeanOfItsSquares) {
    Made m = make({block(40, 40, 50), step("fillet", {{"edges", "upright"}, {"radius", 2}, {"end_radius", 6}})});
    EXPECT_EQ(m.says(), "");
    double mean = (4 + 12 + 36) / 3.0; // of r2 along the edge, r linear
    EXPECT_NEAR(m.volume(), 40 * 40 * 50 - (4 - pi) * mean * 50, 4 * 50 * 0.2);
}

TEST(Fillet, InnerEdgesAreFilled) {
    Made m = make({block(40, 30, 4),
                   step("block", {{"size_x", 4}, {"size_y", 30}, {"size_z", 20}, {"at_x", -18}, {"at_z", 4}}, "wall"),
                   step("fillet", {{"edges", "foot of wall"}, {"radius", 3}})});
    EXPECT_NEAR(m.volume(), 40 * 30 * 4 + 4 * 30 * 20 + (1 - pi / 4) * 9 * 30, 1e-4) << m.says();
}

TEST(Fillet, TooLargeARadiusRoundsWhatItCanNamesTheRestAndOffersTheLargest) {
    json steps{block(60, 40, 30), step("fillet", {{"edges", "upright"}, {"radius", 25}})};
    Made m = make(steps);
    const StepOutcome& outcome = m.step(1);
    ASSERT_TRUE(outcome.ok) << outcome.says;
    EXPECT_NE(outcome.says.find("2 of 4 edges stay sharp"), std::string::npos) << outcome.says;
    ASSERT_TRUE(outcome.cure);
    EXPECT_EQ(outcome.cure->field, "radius");
    double offered = std::stod(outcome.cure->text);
    EXPECT_GT(offered, 19.8); // half the width is the end
    EXPECT_LE(offered, 20);
    steps[1]["fields"]["radius"] = outcome.cure->text;
    Made cured = make(steps);
    EXPECT_EQ(cured.step(1).says, "");
    EXPECT_NEAR(cured.volume(), 60 * 40 * 30 - (4 - pi) * offered * offered * 30, 1e-4);
}

TEST(Fillet, OneEdgeThatCannotBeLeavesTheBodyAndSaysTheLimit) {
    Made m = make({block(60, 40, 30), step("fillet", {{"edges", "of top of b"}, {"radius", 31}})});
    EXPECT_FALSE(m.step(1).ok);
    EXPECT_NEAR(m.volume(), 72000, 1e-9);
    ASSERT_TRUE(m.step(1).cure) << m.says();
    double limit = std::stod(m.step(1).cure->text); // half the width, where the rounds of the top would meet
    EXPECT_TRUE(limit > 19.8 && limit <= 20) << limit;
    Made none = make({block(60, 40, 30), step("fillet", {{"edges", "of lid"}, {"radius", 1}})});
    EXPECT_FALSE(none.step(1).ok);
    EXPECT_NEAR(none.volume(), 72000, 1e-9);
    Made negative = make({block(60, 40, 30), step("fillet", {{"edges", "all"}, {"radius", -1}})});
    EXPECT_FALSE(negative.step(1).ok);
    EXPECT_NE(negative.step(1).says.find("radius"), std::string::npos);
}

TEST(Fillet, APickedEdgeIsFoundAgainWhenTheBoxChanges) {
    Made before = make(json::array({block(60, 40, 30)}));
    const Tessellation& t = before.body().tessellation();
    std::string picked;
    for (size_t e = 0; e < t.edges.size(); ++e) {
        Vec3 middle = (t.edges[e].points.front() + t.edges[e].points.back()) / 2;
        if ((middle - Vec3(30, 0, 30)).norm() < 1e-6)
            picked = reference_text(make_edge_reference(before.body(), e, middle));
    }
    ASSERT_FALSE(picked.empty());
    json tall = block(80, 40, 50);
    tall["id"] = before.project->parts[0]->steps[0].id.value;
    Made after = make({tall, step("fillet", {{"edges", picked}, {"radius", 4}})});
    EXPECT_EQ(after.says(), "");
    EXPECT_NEAR(after.volume(), 80 * 40 * 50 - (1 - pi / 4) * 16 * 40, 1e-6);
    Vec3 lost = after.body().mass().centre;
    EXPECT_LT(lost.x(), 0); // cut off at the right
    EXPECT_LT(lost.z(), 25);
}

TEST(Fillet, AFilletedPartCarriesItsGapEvenly) {
    // A key with rounded edges sunk into a block: the pocket is the key grown by the gap in every direction (Steiner).
    json key{block(20, 12, 8), step("fillet", {{"edges", "all"}, {"radius", 2}})};
    json host{step("block", {{"size_x", 60}, {"size_y", 60}, {"size_z", 60}, {"at_z", -20}}),
              step("cut_with", {{"tool", "key"}, {"fit", "0.3 mm"}})};
    Made m = make_parts({{"key", key}, {"host", host}});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(216000 - m.volume(1), rounded_box(20.6, 12.6, 8.6, 2.3), 0.01);
}

TEST(Chamfer, CutsPrismsOff) {
    Made even = make({block(60, 40, 30), step("chamfer", {{"edges", "upright"}, {"distance", 3}})});
    EXPECT_NEAR(even.volume(), 72000 - 4 * 4.5 * 30, 1e-6) << even.says();
    Made uneven = make({block(60, 40, 30), step("chamfer", {{"edges", "of top of b"}, {"distance", 2}, {"other", 5}})});
    EXPECT_EQ(uneven.says(), "");
    // 2 off the level face, 5 off the sides: a frustum of a wedge at every side (prismatoid over the top).
    auto top = [](double h) { return (60 - 2 * 2 * h / 5) * (40 - 2 * 2 * h / 5); };
    double lost = 5.0 / 6 * (top(0) + 4 * top(2.5) + top(5));
    EXPECT_NEAR(uneven.volume(), 60 * 40 * 25 + lost, 1e-3);
    Made angled =
        make({block(60, 40, 30), step("chamfer", {{"edges", "upright"}, {"distance", 3}, {"angle", "30 deg"}})});
    EXPECT_NEAR(angled.volume(), 72000 - 4 * 0.5 * 3 * 3 * std::tan(pi / 6) * 30, 1e-4) << angled.says();
    Made large = make({block(60, 40, 30), step("chamfer", {{"edges", "upright"}, {"distance", 25}})});
    EXPECT_FALSE(large.step(1).ok);
    ASSERT_TRUE(large.step(1).cure) << large.says();
    EXPECT_GT(std::stod(large.step(1).cure->text), 19);
    EXPECT_NEAR(large.volume(), 72000, 1e-9);
    Made both = make(
        {block(60, 40, 30), step("chamfer", {{"edges", "all"}, {"distance", 3}, {"other", 2}, {"angle", "30 deg"}})});
    EXPECT_FALSE(both.step(1).ok);
}

TEST(Chamfer, CarriesItsGapAtRightAngles) {
    json key{block(20, 12, 8), step("chamfer", {{"edges", "upright"}, {"distance", 2}})};
    json host{step("block", {{"size_x", 60}, {"size_y", 60}, {"size_z", 60}, {"at_z", -20}}),
              step("cut_with", {{"tool", "key"}, {"fit", "0.3 mm"}})};
    Made m = make_parts({{"key", key}, {"host", host}});
    EXPECT_EQ(m.says(), "");
    double d = 2 + 0.3 * (2 - std::sqrt(2.0)); // the flat moves out by the gap
    EXPECT_NEAR(216000 - m.volume(1), (20.6 * 12.6 - 2 * d * d) * 8.6, 1e-3);
}

TEST(Shell, WallsHaveTheirVolume) {
    auto shelled = [](const json& fields) { return make({block(60, 40, 30), step("shell", fields)}); };
    Made open = shelled({{"open", "top of b"}, {"wall", 2}});
    EXPECT_NEAR(open.volume(), 72000 - 56 * 36 * 28, 1e-4) << open.says();
    Made two = shelled({{"open", "top of b; right of b"}, {"wall", 2}});
    EXPECT_NEAR(two.volume(), 72000 - 58 * 36 * 28, 1e-4) << two.says();
    Made closed = shelled({{"wall", 2}});
    EXPECT_NEAR(closed.volume(), 72000 - 56 * 36 * 26, 1e-4) << closed.says();
    EXPECT_EQ(closed.body().pieces(), 1);
    Made outward = shelled({{"open", "top of b"}, {"wall", 2}, {"side", "outward"}});
    EXPECT_NEAR(outward.volume(), 64 * 44 * 32 - 72000, 1e-3) << outward.says();
    Made uneven = shelled({{"open", "top of b"}, {"wall", 2}, {"other_faces", "bottom of b"}, {"other_wall", 5}});
    EXPECT_NEAR(uneven.volume(), 72000 - 56 * 36 * 25, 1e-4) << uneven.says();
    Made jar = make({step("cylinder", {{"diameter", 40}, {"height", 50}}, "b"),
                     step("shell", {{"open", "top of b"}, {"wall", 1.5}})});
    EXPECT_NEAR(jar.volume(), pi * (400 * 50 - 18.5 * 18.5 * 48.5), 1e-3) << jar.says();
}

TEST(Shell, AFilletedBoxAsThickAsItsRoundsIsShelledAllTheSame) {
    Made m = make({block(60, 40, 30), step("fillet", {{"edges", "upright"}, {"radius", 5}}),
                   step("fillet", {{"edges", "of top of b"}, {"radius", 2}}),
                   step("shell", {{"open", "bottom of b"}, {"wall", 2}})});
    EXPECT_EQ(m.says(), "");
    // The hollow: the inner block with its upright edges rounded by 3, its top edges sharp.
    double outer = 0; // measured by the same fillets alone
    Made solid = make({block(60, 40, 30), step("fillet", {{"edges", "upright"}, {"radius", 5}}),
                       step("fillet", {{"edges", "of top of b"}, {"radius", 2}})});
    outer = solid.volume();
    EXPECT_NEAR(m.volume(), outer - (56 * 36 - (4 - pi) * 9) * 28, 4) << "within half a thousandth of the wall";
}

TEST(Shell, ItsInnerRoundsArePlainSurfaces) {
    // All edges rounded by 5, the wall 2: inside rounds of 3, told as cylinders and balls, not as offsets of others.
    Made m = make({block(60, 40, 30), step("fillet", {{"edges", "all"}, {"radius", 5}}), step("shell", {{"wall", 2}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), rounded_box(60, 40, 30, 5) - rounded_box(56, 36, 26, 3), 1e-3);
    std::map<GeomAbs_SurfaceType, int> kinds;
    for (TopExp_Explorer it(m.body().exact()->shape, TopAbs_FACE); it.More(); it.Next())
        ++kinds[BRepAdaptor_Surface(TopoDS::Face(it.Current()), false).GetType()];
    EXPECT_EQ(kinds[GeomAbs_OffsetSurface], 0);
    EXPECT_EQ(kinds[GeomAbs_Plane], 12);
    EXPECT_EQ(kinds[GeomAbs_Cylinder], 24);
    EXPECT_EQ(kinds[GeomAbs_Sphere], 16);
    EXPECT_FALSE(m.body().check_triangles());
}

TEST(Shell, ThickerThanHalfTheBodyIsRefusedAndNothingLost) {
    for (double wall : {10.0, 15.0, 20.0, 1e3}) {
        Made closed = make({block(60, 40, 20), step("shell", {{"wall", wall}})});
        EXPECT_FALSE(closed.step(1).ok) << wall;
        EXPECT_NEAR(closed.volume(), 48000, 1e-6);
        Made open = make({block(60, 40, 20), step("shell", {{"open", "right of b"}, {"wall", wall}})});
        EXPECT_FALSE(open.step(1).ok) << wall;
        EXPECT_NEAR(open.volume(), 48000, 1e-6);
    }
}

TEST(Draft, FourWallsMakeAFrustum) {
    Made m = make({block(60, 40, 30),
                   step("draft", {{"faces", "left of b; right of b; front of b; back of b"}, {"angle", "4 deg"}})});
    EXPECT_EQ(m.says(), "");
    double s = 2 * std::tan(4 * pi / 180);
    auto area = [&](double z) { return (60 - s * z) * (40 - s * z); };
    EXPECT_NEAR(m.volume(), 30.0 / 6 * (area(0) + 4 * area(15) + area(30)), 1e-3); // prismatoid
    // From the top face they lean the other way round.
    Made top =
        make({block(60, 40, 30), step("draft", {{"faces", "left of b"}, {"angle", "4 deg"}, {"from", "top of b"}})});
    EXPECT_EQ(top.says(), "");
    EXPECT_NEAR(top.volume(), 72000 - 0.5 * 30 * 30 * std::tan(4 * pi / 180) * 40, 1e-3);
}

TEST(Push, MovesFlatAndRoundFaces) {
    Made out = make({block(60, 40, 30), step("push", {{"faces", "top of b"}, {"by", 4}})});
    EXPECT_NEAR(out.volume(), 60 * 40 * 34, 1e-6) << out.says();
    EXPECT_EQ(out.body().tessellation().faces.size(), 6u) << "flush walls are one";
    Made in = make({block(60, 40, 30), step("push", {{"faces", "top of b; right of b"}, {"by", "-4 mm"}})});
    EXPECT_NEAR(in.volume(), 56 * 40 * 26, 1e-6) << in.says();
    Made hole = make({block(60, 40, 10),
                      step("cylinder", {{"diameter", 8}, {"height", 20}, {"at_z", -5}, {"does", "cut"}}, "hole"),
                      step("push", {{"faces", "side of hole"}, {"by", "-0.2 mm"}})});
    EXPECT_NEAR(hole.volume(), 24000 - pi * 4.2 * 4.2 * 10, 0.01) << hole.says();
    Made gone = make({block(60, 40, 30), step("push", {{"faces", "top of b"}, {"by", "-30 mm"}})});
    EXPECT_FALSE(gone.step(1).ok);
    EXPECT_NEAR(gone.volume(), 72000, 1e-6);
}

TEST(RemoveFaces, HealsTheBodyAsItWas) {
    Made before = make({block(60, 40, 30), step("fillet", {{"edges", "upright"}, {"radius", 5}})});
    std::string rounds;
    const Tessellation& t = before.body().tessellation();
    for (size_t f = 0; f < t.faces.size(); ++f)
        if (t.faces[f].kind == SurfaceKind::Cylinder)
            rounds.append(rounds.empty() ? 0 : 1, ';')
                .append(reference_text(make_reference(before.body(), f, t.faces[f].centre)));
    json first = block(60, 40, 30), second = step("fillet", {{"edges", "upright"}, {"radius", 5}});
    first["id"] = before.project->parts[0]->steps[0].id.value;
    second["id"] = before.project->parts[0]->steps[1].id.value;
    Made m = make({first, second, step("remove_faces", {{"faces", rounds}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), 72000, 1e-4);
    EXPECT_EQ(m.body().tessellation().faces.size(), 6u);
    Made top = make({block(60, 40, 30), step("remove_faces", {{"faces", "top of b"}})});
    EXPECT_FALSE(top.step(1).ok);
    EXPECT_NEAR(top.volume(), 72000, 1e-6);
}

TEST(Shaping, EulerAndPoincareAgreeOnHandles) {
    // V - E + F = 2 (pieces - handles), for each piece without voids; here of the triangles.
    auto characteristic = [](const Body& body) {
        const TriMesh& mesh = body.mesh();
        std::set<std::pair<uint32_t, uint32_t>> edges;
        for (const Triangle& t : mesh.triangles)
            for (size_t k = 0; k < 3; ++k) edges.insert(std::minmax(t[k], t[(k + 1) % 3]));
        return long(mesh.vertices.size()) - long(edges.size()) + long(mesh.triangles.size());
    };
    json hole =
        step("cylinder", {{"diameter", 4}, {"height", 20}, {"at_x", -20}, {"at_z", -5}, {"does", "cut"}}, "hole");
    for (int holes : {1, 3, 5}) {
        json steps{block(60, 40, 6), hole, step("repeat", {{"steps", "hole"}, {"count", holes}, {"by_x", "10 mm"}}),
                   step("fillet", {{"edges", "upright"}, {"radius", 3}})};
        Made m = make(steps);
        EXPECT_EQ(m.says(), "");
        EXPECT_EQ(characteristic(m.body()), 2 - 2 * holes);
    }
    Made open = make({block(60, 40, 30), step("shell", {{"open", "top of b"}, {"wall", 2}})});
    EXPECT_EQ(characteristic(open.body()), 2);
    Made tube = make({block(60, 40, 30), step("shell", {{"open", "top of b; bottom of b"}, {"wall", 2}})});
    EXPECT_EQ(characteristic(tube.body()), 0);
}
