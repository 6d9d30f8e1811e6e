// Placing, repeating, splitting, bending, ribs. Against closed formulas (elementary geometry, Pappus, Cavalieri).
#include "made_project.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {
json pin() {
    return step("cylinder", {{"diameter", 3}, {"height", 8}, {"at_x", -20}, {"at_y", -10}}, "pin");
}
const double pin_above = pi * 2.25 * 4; // of a plate 4 thick
json hole() {
    return step("cylinder",
                {{"diameter", 3}, {"height", 20}, {"at_x", -20}, {"at_y", -10}, {"at_z", -5}, {"does", "cut"}}, "hole");
}
json line(std::vector<std::array<double, 2>> p) {
    json list = json::array();
    for (size_t i = 0; i + 1 < p.size(); ++i)
        list.push_back({{"kind", "line"}, {"points", json::array({p[i], p[i + 1]})}});
    return {{"elements", list}};
}
bool watertight(const Body& body) {
    return check_soundness(body.mesh()).sound();
}
} // namespace

TEST(Repeat, RowsOfHolesAndPinsLessTheOnesLeftOut) {
    Made pins = make({block(60, 40, 4), pin(), step("repeat", {{"steps", "pin"}, {"count", 5}, {"by_x", "10 mm"}})});
    EXPECT_NEAR(pins.volume(), 9600 + 5 * pin_above, 1e-6) << pins.says();
    Made grid =
        make({block(60, 40, 4), hole(),
              step("repeat", {{"steps", "hole"}, {"count", 5}, {"by_x", "10 mm"}, {"rows", 3}, {"drop", "2, 8"}})});
    EXPECT_NEAR(grid.volume(), 9600 - 13 * pi * 2.25 * 4, 1e-6) << grid.says();
    Made both = make(
        {block(60, 40, 4), pin(), hole(), step("repeat", {{"steps", "pin, hole"}, {"count", 3}, {"by_x", "10 mm"}})});
    EXPECT_NEAR(both.volume(), 9600 - 3 * pi * 2.25 * 4, 1e-6) << "a pin bored through is a hole";
}

TEST(Repeat, OfARepeatAndOfWholeBodies) {
    Made m = make({block(60, 40, 4), pin(), step("repeat", {{"steps", "pin"}, {"count", 3}, {"by_x", "10 mm"}}, "row"),
                   step("repeat", {{"steps", "pin, row"}, {"count", 2}, {"by_x", "0 mm"}, {"by_y", "20 mm"}})});
    EXPECT_NEAR(m.volume(), 9600 + 6 * pin_above, 1e-6) << m.says();
    Made bodies = make({block(10, 10, 10), step("repeat", {{"count", 4}, {"by_x", "15 mm"}, {"does", "new"}})});
    EXPECT_EQ(bodies.part().bodies.size(), 4u);
    EXPECT_NEAR(bodies.volume(), 4000, 1e-6);
    Made touching = make({block(10, 10, 10), step("repeat", {{"count", 4}, {"by_x", "10 mm"}})});
    EXPECT_EQ(touching.body().pieces(), 1);
    EXPECT_NEAR(touching.volume(), 4000, 1e-6);
    EXPECT_EQ(touching.body().tessellation().faces.size(), 6u) << "flush copies leave no seam";
}

TEST(Repeat, RoundAnAxisIsSymmetric) {
    json stud = step("cylinder", {{"diameter", 4}, {"height", 9}, {"at_x", 15}}, "stud");
    Made m = make({step("cylinder", {{"diameter", 50}, {"height", 5}}), stud,
                   step("repeat_round", {{"steps", "stud"}, {"count", 7}})});
    EXPECT_NEAR(m.volume(), pi * 625 * 5 + 7 * pi * 4 * 4, 1e-4) << m.says();
    EXPECT_NEAR(m.body().mass().centre.head<2>().norm(), 0, 1e-6);
    Made part = make({step("cylinder", {{"diameter", 50}, {"height", 5}}), stud,
                      step("repeat_round", {{"steps", "stud"}, {"count", 3}, {"angle", "180 deg"}})});
    EXPECT_NEAR(part.body().mass().centre.x(), 0, 1e-6) << "at 0, 90 and 180 degrees";
    EXPECT_GT(part.body().mass().centre.y(), 0.01);
    json bar = step("block", {{"size_x", 8}, {"size_y", 2}, {"size_z", 9}, {"at_x", 15}}, "bar");
    for (auto [attitude, wide] : {std::pair("turning", 2.0), std::pair("kept", 8.0)}) {
        Made k = make({step("cylinder", {{"diameter", 10}, {"height", 5}}), bar,
                       step("repeat_round", {{"steps", "bar"}, {"count", 4}, {"attitude", attitude}})});
        double low = 1e9, high = -1e9; // width of what stands at the back
        for (const Vec3& v : k.body().mesh().vertices)
            if (v.y() > 13.5) low = std::min(low, v.x()), high = std::max(high, v.x());
        EXPECT_NEAR(high - low, wide, 1e-6) << attitude;
    }
}

TEST(Repeat, AlongAPathAndMirrored) {
    Made path =
        make({block(60, 40, 4), pin(), step("outline", {{"drawing", line({{-20, -10}, {20, -10}, {20, 10}})}}, "way"),
              step("repeat_path", {{"steps", "pin"}, {"path", "way"}, {"count", 4}})});
    EXPECT_EQ(path.says(), "");
    EXPECT_NEAR(path.volume(), 9600 + 4 * pin_above, 1e-6);
    EXPECT_NEAR(path.part().box.max().z(), 8, 1e-9);
    bool at_end = false; // evenly over 60 mm: the last stands at the end
    for (const FaceInfo& f : path.body().tessellation().faces)
        at_end = at_end || (f.kind == SurfaceKind::Cylinder && (f.centre - Vec3(20, 10, 6)).norm() < 1e-6);
    EXPECT_TRUE(at_end);
    Made mirrored = make({block(60, 40, 4), pin(), step("mirror", {{"steps", "pin"}, {"in", "yz"}})});
    EXPECT_NEAR(mirrored.volume(), 9600 + 2 * pin_above, 1e-6) << mirrored.says();
    EXPECT_NEAR(mirrored.body().mass().centre.x(), 0, 1e-9);
    Made whole = make({step("wedge", {{"size_x", 20}, {"size_y", 10}, {"size_z", 10}, {"at_x", 10}}),
                       step("mirror", {{"in", "yz"}})});
    EXPECT_EQ(whole.says(), "");
    EXPECT_NEAR(whole.body().mass().centre.x(), 0, 1e-9);
    EXPECT_TRUE(watertight(whole.body()));
}

TEST(Repeat, RefusesWhatCannotBeRepeatedAndAsksBeforeAHundredThousand) {
    auto refuse = [](const json& fields) {
        Made m = make({block(60, 40, 4), pin(), step("repeat", fields)});
        EXPECT_FALSE(m.step(2).ok) << fields.dump();
        EXPECT_NEAR(m.volume(), 9600 + pin_above, 1e-6);
        return m.step(2);
    };
    refuse({{"steps", "pin"}, {"count", 0}});
    refuse({{"steps", "pin"}, {"count", 3}, {"by_x", 0}});
    refuse({{"steps", "nothing"}, {"count", 3}});
    refuse({{"steps", "pin"}, {"count", 3}, {"drop", "1"}});
    refuse({{"steps", "pin"}, {"count", 3}, {"drop", "9"}});
    StepOutcome many = refuse({{"steps", "pin"}, {"count", 100000}, {"by_x", "1 mm"}});
    ASSERT_TRUE(many.cure);
    EXPECT_EQ(many.cure->field, "many");
    Made one = make({block(60, 40, 4), pin(), step("repeat", {{"steps", "pin"}, {"count", 1}})});
    EXPECT_NEAR(one.volume(), 9600 + pin_above, 1e-6) << one.says();
}

TEST(Scale, MultipliesVolumeAndMirrorsNothing) {
    Made even = make({block(20, 10, 5), step("scale", {{"by", "1.5"}, {"about_x", "10 mm"}})});
    EXPECT_NEAR(even.volume(), 1000 * 3.375, 1e-6);
    EXPECT_NEAR(even.part().box.max().x(), 10, 1e-9) << "the point stays";
    Made uneven =
        make({step("cylinder", {{"diameter", 10}, {"height", 10}}), step("scale", {{"by_x", "2"}, {"by", "1.02"}})});
    EXPECT_NEAR(uneven.volume(), pi * 250 * 2 * std::pow(1.02, 3), 0.01) << uneven.says(); // an ellipse
    for (const char* bad : {"0", "-1", "1e9"}) {
        Made m = make({block(20, 10, 5), step("scale", {{"by", bad}})});
        EXPECT_FALSE(m.step(1).ok) << bad;
        EXPECT_NEAR(m.volume(), 1000, 1e-9);
    }
}

TEST(Align, LinesUpWithAnAnchorThatDoesNotMove) {
    auto aligned = [](const json& fields) {
        Made m =
            make({block(40, 30, 10, "anchor"),
                  step("block", {{"size_x", 8}, {"size_y", 6}, {"size_z", 4}, {"at_x", 77}, {"does", "new"}}, "mine"),
                  step("align", fields)});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.part().bodies[0].body.box().min().x(), -20, 1e-9);
        return m.part().bodies[1].body.box();
    };
    Box3 on_top = aligned({{"what", "mine"}, {"to", "anchor"}, {"x", "centre"}, {"y", "max"}, {"z", "after"}});
    EXPECT_NEAR((on_top.min() - Vec3(-4, 9, 10)).norm(), 0, 1e-9);
    Box3 beside = aligned({{"what", "mine"}, {"to", "anchor"}, {"x", "before"}, {"y", "min"}, {"gap", "2 mm"}});
    EXPECT_NEAR((beside.max() - Vec3(-22, -9, 4)).norm(), 0, 1e-9);
    Box3 origin = aligned({{"what", "mine"}, {"x", "min"}, {"y", "min"}, {"z", "min"}});
    EXPECT_NEAR(origin.min().norm(), 0, 1e-9);
}

TEST(Seat, AFaceLiesOnAFaceWithItsGap) {
    json wedge = step("wedge", {{"size_x", 20}, {"size_y", 10}, {"size_z", 10}, {"at_x", 60}, {"does", "new"}}, "hood");
    Made before = make({block(40, 30, 10, "anchor"), wedge});
    const Body& hood = before.part().bodies.at(1).body;
    std::string slope;
    double area = 0;
    for (size_t f = 0; f < hood.tessellation().faces.size(); ++f)
        if (const FaceInfo& face = hood.tessellation().faces[f];
            face.direction.cwiseAbs().maxCoeff() < 0.99 && face.area_mm2 > area)
            area = face.area_mm2, slope = reference_text(make_reference(hood, f, face.centre));
    ASSERT_FALSE(slope.empty());
    json anchor = block(40, 30, 10, "anchor");
    anchor["id"] = before.project->parts[0]->steps[0].id.value;
    wedge["id"] = before.project->parts[0]->steps[1].id.value;
    Made m = make({anchor, wedge,
                   step("seat", {{"face", slope}, {"on", "top of anchor"}, {"gap", "0.4 mm"}, {"angle", "30 deg"}})});
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.part().bodies[1].body.box().min().z(), 10.4, 1e-9);
    EXPECT_NEAR(m.part().bodies[1].body.mass().volume_mm3, hood.mass().volume_mm3, 1e-6);
    // Round on round: axis on axis.
    Made round =
        make({step("cylinder", {{"diameter", 20}, {"height", 30}, {"at_x", 15}}, "post"),
              step("cylinder", {{"diameter", 6}, {"height", 8}, {"along", "x"}, {"at_y", 50}, {"does", "new"}}, "cap"),
              step("seat", {{"face", "side of cap"}, {"on", "side of post"}, {"gap", "20 mm"}})});
    EXPECT_EQ(round.says(), "");
    Box3 cap = round.part().bodies[1].body.box();
    EXPECT_NEAR((cap.center() - Vec3(15, 0, 35)).norm(), 0, 1e-6);
    EXPECT_NEAR((cap.sizes() - Vec3(6, 6, 8)).norm(), 0, 1e-6);
    Made same =
        make({block(40, 30, 10, "anchor"), step("seat", {{"face", "top of anchor"}, {"on", "left of anchor"}})});
    EXPECT_FALSE(same.step(1).ok);
}

TEST(Turn, AimedSeatsMeetBelow) {
    // Three rods tilted by atan(r / d) about their own feet: their axes meet d below.
    json steps = json::array({block(10, 10, 1, "hub")});
    for (int k = 0; k < 3; ++k) {
        std::string name = "seat " + std::to_string(k + 1);
        steps.push_back(step("cylinder", {{"diameter", 4}, {"height", 6}, {"at_x", 30}, {"does", "new"}}, name));
        steps.push_back(step("turn", {{"what", name}, {"axis", "y"}, {"angle", "atan(30 / aim)"}, {"through_x", 30}}));
        steps.push_back(step("turn", {{"what", name}, {"axis", "z"}, {"angle", std::to_string(120 * k) + " deg"}}));
    }
    for (double aim : {85.0, 120.0}) {
        Made m = make(steps, {{"aim", std::to_string(aim)}});
        EXPECT_EQ(m.says(), "");
        int axes = 0;
        for (const StepBody& body : m.part().bodies)
            for (const FaceInfo& f : body.body.tessellation().faces)
                if (f.kind == SurfaceKind::Cylinder) {
                    Vec3 to = Vec3(0, 0, -aim) - f.axis_point;
                    EXPECT_NEAR((to - to.dot(f.direction) * f.direction).norm(), 0, 1e-6) << aim;
                    ++axes;
                }
        EXPECT_EQ(axes, 3);
    }
}

TEST(Split, HalvesAddUpAndTheMissIsTold) {
    json holed{block(60, 40, 20), hole()};
    double whole = 48000 - pi * 2.25 * 15;
    json steps = holed;
    steps.push_back(step("split", {{"by", "xy"}, {"distance", "7 mm"}}, "upper"));
    Made both = make(steps);
    EXPECT_EQ(both.says(), "");
    ASSERT_EQ(both.part().bodies.size(), 2u);
    EXPECT_NEAR(both.part().bodies[0].body.mass().volume_mm3 + both.part().bodies[1].body.mass().volume_mm3, whole,
                1e-4);
    EXPECT_NEAR(both.part().bodies[0].body.box().max().z(), 7, 1e-9);
    EXPECT_EQ(both.part().bodies[1].name, "upper");
    for (auto [keep, volume] :
         {std::pair("above", 60 * 40 * 13 - pi * 2.25 * 8), std::pair("below", 60 * 40 * 7 - pi * 2.25 * 7)}) {
        Made one = make({holed[0], holed[1], step("split", {{"by", "xy"}, {"distance", "7 mm"}, {"keep", keep}})});
        EXPECT_NEAR(one.volume(), volume, 1e-4) << keep;
    }
    Made miss = make({block(60, 40, 20), step("split", {{"distance", "70 mm"}})});
    EXPECT_FALSE(miss.step(1).ok);
    EXPECT_NE(miss.step(1).says.find("misses"), std::string::npos);
}

TEST(Split, AlongADrawnLineAndAroundAFigure) {
    Made m = make({block(40, 30, 10), step("outline", {{"drawing", line({{-30, -5}, {0, 5}, {30, -5}})}}, "cut"),
                   step("split", {{"outline", "cut"}})});
    EXPECT_EQ(m.says(), "");
    ASSERT_EQ(m.part().bodies.size(), 2u);
    // Left of the line, above it: y from the roof line -5 + (30 - |x|) / 3 up to 15.
    double left = 40 * 20 - 2 * (10 * 20 - 400.0 / 6);
    EXPECT_NEAR(m.part().bodies[1].body.mass().volume_mm3, left * 10, 1e-3);
    EXPECT_NEAR(m.volume(), 12000, 1e-3);
    json ring{{"elements", json::array({{{"kind", "circle"}, {"points", json::array({{0, 0}})}, {"radius", 8}}})}};
    Made plug =
        make({block(40, 30, 10), step("outline", {{"drawing", ring}}, "round"), step("split", {{"outline", "round"}})});
    EXPECT_NEAR(plug.part().bodies[1].body.mass().volume_mm3, pi * 640, 1e-3) << plug.says();
}

TEST(Widen, AddsTheSectionTimesTheDistance) {
    json link{block(60, 40, 10),
              step("block", {{"size_x", 40}, {"size_y", 20}, {"size_z", 30}, {"at_z", -5}, {"does", "cut"}})};
    json wide = link;
    wide.push_back(step("widen", {{"by", "yz"}, {"apart", "13 mm"}}));
    Made m = make(wide);
    EXPECT_EQ(m.says(), "");
    EXPECT_NEAR(m.volume(), (60 * 40 - 40 * 20) * 10 + 2 * 10 * 10 * 13, 1e-6);
    EXPECT_NEAR(m.part().box.sizes().x(), 73, 1e-9);
    EXPECT_EQ(m.body().tessellation().faces.size(), 10u) << "walls across are flush with the walls";
    // On triangles the same, by parting every facet: no boolean is used.
    json mesh = link;
    mesh.push_back(step("skew", {{"angle", "0 deg"}}));
    mesh.push_back(step("widen", {{"by", "yz"}, {"distance", "1.234 mm"}, {"apart", "13 mm"}}));
    Made faceted = make(mesh);
    EXPECT_EQ(faceted.says(), "");
    EXPECT_FALSE(faceted.body().is_exact());
    EXPECT_NEAR(faceted.volume(), (60 * 40 - 40 * 20) * 10 + 2 * 10 * 10 * 13, 1e-6);
    EXPECT_TRUE(watertight(faceted.body()));
    // Through corners of the mesh.
    mesh.back() = step("widen", {{"by", "yz"}, {"distance", "20 mm"}, {"apart", "13 mm"}});
    Made corners = make(mesh);
    EXPECT_EQ(corners.says(), "");
    EXPECT_NEAR(corners.part().box.sizes().x(), 73, 1e-9);
}

TEST(Pieces, AreNamedKeptAndGoToOtherParts) {
    json steps{block(10, 10, 10), step("repeat", {{"count", 3}, {"by_x", "15 mm"}, {"drop", "2"}})};
    Made apart = make(steps);
    EXPECT_NE(apart.step(1).says.find("2 pieces"), std::string::npos) << apart.step(1).says;
    ASSERT_TRUE(apart.step(1).cure);
    EXPECT_EQ(apart.step(1).cure->add_step, "pieces");
    steps.push_back(step("pieces", {{"keep", "all"}}));
    Made all = make(steps);
    EXPECT_EQ(all.part().bodies.size(), 2u);
    steps[2] = step("pieces", {{"keep", "2"}});
    EXPECT_EQ(make(steps).part().bodies.size(), 1u);
    steps[2] = step("pieces", {{"keep", "7"}});
    EXPECT_FALSE(make(steps).step(2).ok);
    // Both halves as parts: one takes the body, the other leaves it out; a change of size reaches both.
    json source{step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", "h"}}),
                step("split", {{"distance", "h / 2"}}, "lid"), step("leave_out", {{"what", "lid"}})};
    json taker = json::array({step("take", {{"from", "box"}, {"what", "lid"}, {"after", "lid"}})});
    for (double h : {20.0, 27.0}) {
        Made parts = make_parts({{"box", source}, {"top", taker}}, {{"h", std::to_string(h) + " mm"}});
        EXPECT_EQ(parts.says(), "");
        EXPECT_NEAR(parts.volume(0), 60 * 40 * h / 2, 1e-6);
        EXPECT_NEAR(parts.volume(1), 60 * 40 * h / 2, 1e-6);
        EXPECT_NEAR(parts.part(1).box.min().z(), h / 2, 1e-9);
    }
    Made circle = make_parts(
        {{"a", json::array({step("take", {{"from", "b"}})})}, {"b", json::array({step("take", {{"from", "a"}})})}});
    EXPECT_FALSE(circle.part(0).steps[0].ok);
    EXPECT_NE(circle.part(0).steps[0].says.find("circle"), std::string::npos) << circle.part(0).steps[0].says;
}

TEST(Bend, ABarFollowsPappus) {
    for (double angle : {30.0, 90.0, 180.0, -90.0}) {
        Made m =
            make({step("block", {{"size_x", 100}, {"size_y", 10}, {"size_z", 4}, {"from", "corner"}, {"at_z", -2}}),
                  step("bend", {{"angle", std::to_string(angle) + " deg"}, {"from", "10 mm"}, {"to", "90 mm"}})});
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), 4000, 2) << angle; // the middle keeps its length
        EXPECT_TRUE(watertight(m.body()));
        EXPECT_FALSE(m.body().is_exact());
        EXPECT_NE(m.step(1).says.find("faceted"), std::string::npos);
        double r = 80 / (std::fabs(angle) * pi / 180);
        double end = 10 + r * std::sin(std::fabs(angle) * pi / 180) + 10 * std::cos(std::fabs(angle) * pi / 180);
        double far = 0; // the end's middle
        for (const Vec3& v : m.body().mesh().vertices) far = std::max(far, v.x());
        EXPECT_GT(far, end - 0.1) << angle;
    }
    Made raised = make({step("block", {{"size_x", 100}, {"size_y", 10}, {"size_z", 4}, {"from", "corner"}}),
                        step("bend", {{"angle", "90 deg"}, {"from", "0 mm"}, {"to", "100 mm"}})});
    double r = 100 / (pi / 2);
    EXPECT_NEAR(raised.volume(), pi / 2 * (r - 2) * 40, 2) << "its middle lies 2 inside the neutral height";
    Made inside = make({step("block", {{"size_x", 100}, {"size_y", 10}, {"size_z", 40}, {"from", "corner"}}),
                        step("bend", {{"angle", "300 deg"}, {"from", "0 mm"}, {"to", "100 mm"}})});
    EXPECT_FALSE(inside.step(1).ok);
    EXPECT_NEAR(inside.volume(), 40000, 1e-9);
}

TEST(Bend, SkewTwistAndTaperKeepTheFormulas) {
    Made skew = make({block(10, 10, 20), step("skew", {{"angle", "20 deg"}})});
    EXPECT_NEAR(skew.volume(), 2000, 1e-6) << skew.says(); // Cavalieri
    EXPECT_NEAR(skew.part().box.max().x(), 5 + 20 * std::tan(pi / 9), 1e-9);
    Made twist = make({block(20, 10, 40), step("twist", {{"angle", "90 deg"}, {"to", "40 mm"}})});
    EXPECT_NEAR(twist.volume(), 8000, 8) << twist.says(); // Cavalieri
    EXPECT_TRUE(watertight(twist.body()));
    EXPECT_NEAR(twist.part().box.max().y(), std::hypot(10, 5), 0.1);
    Made taper = make({block(20, 10, 40), step("taper", {{"by", "0.5"}, {"to", "40 mm"}})});
    EXPECT_NEAR(taper.volume(), 200 * 40 * (1 + 0.5 + 0.25) / 3, 1e-6) << taper.says(); // frustum
    EXPECT_EQ(taper.body().mesh().triangles.size(), 12u) << "flat walls stay flat";
    for (const char* kind : {"twist", "taper", "bend"}) {
        Made none = make({block(20, 10, 40), step(kind, {{"from", "10 mm"}, {"to", "10 mm"}})});
        EXPECT_FALSE(none.step(1).ok) << kind;
    }
}

TEST(Bend, StretchedBetweenTwoPlacesTheRestGoesAlong) {
    // A bar of 60 x 10 x 10 with two pegs of 5 that stand 40 apart: the middle is made 5 longer, the pegs stay round.
    auto bar = [](const json& stretch) {
        auto peg = [](double x) {
            return step("cylinder", {{"diameter", 5}, {"height", 8}, {"at_x", x}, {"at_z", 10}});
        };
        return make({block(60, 10, 10), peg(-20), peg(20), step("stretch", stretch)});
    };
    const Made longer = bar({{"by", "5 mm"}, {"from", "-10 mm"}, {"to", "10 mm"}});
    ASSERT_EQ(longer.says(), "");
    EXPECT_NEAR(longer.volume(), 65 * 100 + 2 * pi * 6.25 * 8, 1)
        << "prism and cylinders, in closed form, the round within 0.01 mm";
    EXPECT_NEAR(longer.part().box.min().x(), -30, 1e-6) << "what lies before it stays";
    EXPECT_NEAR(longer.part().box.max().x(), 35, 1e-6);
    EXPECT_TRUE(watertight(longer.body()));
    double off = 0; // of the far peg: still round, about 25
    for (const Vec3& v : longer.body().mesh().vertices)
        if (v.z() > 10.5 && v.x() > 0) off = std::max(off, std::fabs(std::hypot(v.x() - 25, v.y()) - 2.5));
    EXPECT_LT(off, 0.001);
    EXPECT_NEAR(bar({{"by", "-12 mm"}, {"from", "-10 mm"}, {"to", "10 mm"}}).part().box.max().x(), 18, 1e-6);
    EXPECT_NEAR(bar({{"by", "3 mm"}, {"along", "z"}, {"from", "0 mm"}, {"to", "10 mm"}}).part().box.max().z(), 21,
                1e-6);
    for (const json& wrong : {json{{"from", "4 mm"}, {"to", "4 mm"}}, json{{"from", "9 mm"}, {"to", "4 mm"}},
                              json{{"by", "-20 mm"}, {"from", "-10 mm"}, {"to", "10 mm"}}}) {
        const Made none = bar(wrong);
        EXPECT_FALSE(none.step(3).ok);
        EXPECT_NEAR(none.part().box.max().x(), 30, 1e-6) << "the last good body stays";
    }
}

TEST(Bend, ATwistedThreadTakesFewFacetsAndKeepsItsTolerance) {
    // Two turns over 8 mm of an outline of 72 lines round the axis: helicoids, whose points are known.
    json lines = json::array();
    auto at = [](int i) {
        const double a = 2 * pi * i / 72, r = 7.2 + 0.8 * std::cos(a);
        return Vec2(r * std::cos(a), r * std::sin(a));
    };
    for (int i = 0; i < 72; ++i) {
        const Vec2 p = at(i), q = at(i + 1);
        lines.push_back({{"kind", "line"}, {"points", {{p.x(), p.y()}, {q.x(), q.y()}}}});
    }
    Made m = make({step("outline", {{"drawing", {{"elements", lines}}}}, "o"),
                   step("extrude", {{"outline", "o"}, {"height", 8}}),
                   step("twist", {{"angle", "720 deg"}, {"to", "8 mm"}, {"tolerance", "0.02 mm"}})});
    ASSERT_TRUE(m.step(2).ok) << m.says();
    EXPECT_TRUE(watertight(m.body()));
    EXPECT_LT(m.body().mesh().triangles.size(), 20'000u);
    const DistanceTree made(m.body().mesh());
    std::mt19937 random(3);
    std::uniform_real_distribution<double> share(0, 1);
    for (int k = 0; k < 3000; ++k) {
        const int i = int(random() % 72);
        const double s = share(random), z = 8 * share(random);
        const Vec2 flat = at(i) + s * (at(i + 1) - at(i));
        const Vec2 turned = Eigen::Rotation2Dd(4 * pi * z / 8) * flat;
        // Within 4/3 of what the middles of edges keep (closed formula, shape_tools_test.cpp).
        ASSERT_LT(made.closest(Vec3(turned.x(), turned.y(), z)).distance_mm, 0.02 * 4 / 3) << i << " " << s << " " << z;
    }
}

TEST(LieOn, AnOrnamentGoesRoundTheWall) {
    json wall = step("cylinder", {{"diameter", 60}, {"height", 40}}, "wall");
    json plate = step("block", {{"size_x", 20}, {"size_y", 10}, {"size_z", 2}, {"does", "new"}}, "plate");
    Made m = make({wall, plate, step("lie_on", {{"what", "plate"}, {"on", "side of wall"}, {"height", "20 mm"}})});
    EXPECT_EQ(m.says(), "");
    const Body& laid = m.part().bodies.at(1).body;
    EXPECT_NEAR(laid.mass().volume_mm3, 400 * 31.0 / 30, 0.5); // its middle lies 1 outside the wall
    for (const Vec3& v : laid.mesh().vertices) {
        EXPECT_GT(v.head<2>().norm(), 30 - 1e-6);
        EXPECT_LT(v.head<2>().norm(), 32 + 1e-6);
    }
    EXPECT_NEAR(laid.mass().centre.z(), 20, 1e-6);
    Made cone = make(
        {step("cone", {{"diameter", 60}, {"top_diameter", 30}, {"height", 40}}, "wall"), plate,
         step("lie_on",
              {{"what", "plate"}, {"on", "side of wall"}, {"height", "20 mm"}, {"sunk", "0.3 mm"}, {"does", "join"}})});
    EXPECT_EQ(cone.says(), "");
    EXPECT_EQ(cone.part().bodies.size(), 1u);
    EXPECT_EQ(cone.body().pieces(), 1);
    EXPECT_TRUE(watertight(cone.body()));
    Made flat = make({block(40, 30, 10, "wall"), plate, step("lie_on", {{"what", "plate"}, {"on", "top of wall"}})});
    EXPECT_FALSE(flat.step(2).ok);
    EXPECT_NE(flat.step(2).says.find("axis"), std::string::npos);
}

TEST(LieOn, OrnamentsRoundATaperedBodyAreOneCleanBody) { // act 2
    json steps{
        step("cone", {{"diameter", 70}, {"top_diameter", 50}, {"height", 60}}, "pot"),
        step("ring", {{"diameter", 14}, {"thickness", 3}, {"does", "new"}}, "loop"),
        step("skew", {{"what", "loop"}, {"angle", "20 deg"}, {"towards", "x"}, {"along", "y"}}),
        step("lie_on",
             {{"what", "loop"}, {"on", "side of pot"}, {"height", "35 mm"}, {"sunk", "0.5 mm"}, {"does", "join"}},
             "badge"),
        step("repeat_round", {{"steps", "badge"}, {"count", 5}})};
    Made m = make(steps);
    EXPECT_EQ(m.says(), "");
    EXPECT_EQ(m.body().pieces(), 1);
    EXPECT_TRUE(watertight(m.body()));
    EXPECT_NEAR(m.body().mass().centre.head<2>().norm(), 0, 0.02) << "five times round is even";
}

TEST(Rib, FillsUpToTheBody) {
    json base{block(40, 30, 4, "plate"),
              step("block", {{"size_x", 4}, {"size_y", 30}, {"size_z", 30}, {"at_x", -18}, {"at_z", 4}}, "wall")};
    double solid = 40 * 30 * 4 + 4 * 30 * 30;
    for (bool from_wall : {true, false}) {
        json steps = base;
        auto drawn = from_wall ? line({{-16, 24}, {10, 4}}) : line({{10, 4}, {-16, 24}});
        steps.push_back(step("outline", {{"on", "xz"}, {"drawing", drawn}}, "slope"));
        steps.push_back(step("rib", {{"outline", "slope"}, {"thickness", 3}, {"fills", from_wall ? "right" : "left"}}));
        Made m = make(steps);
        EXPECT_EQ(m.says(), "");
        EXPECT_NEAR(m.volume(), solid + 0.5 * 26 * 20 * 3, 1e-4);
        steps.back()["fields"]["fills"] = from_wall ? "left" : "right";
        Made open = make(steps);
        EXPECT_FALSE(open.step(3).ok) << "on that side there is nothing to reach";
        EXPECT_NEAR(open.volume(), solid, 1e-6);
    }
    Made gusset = make({base[0], base[1], step("gusset", {{"edges", "made by wall"}, {"size", 10}, {"thickness", 3}})});
    EXPECT_NEAR(gusset.volume(), solid + 50 * 3, 1e-4) << gusset.says();
    Made steep =
        make({base[0], base[1],
              step("gusset", {{"edges", "made by wall"}, {"size", 10}, {"thickness", 3}, {"angle", "60 deg"}})});
    EXPECT_NEAR(steep.volume(), solid + 0.5 * 10 * 10 * std::tan(pi / 3) * 3, 1e-3) << steep.says();
    Made outer = make({base[0], step("gusset", {{"edges", "of top of plate"}, {"size", 10}})});
    EXPECT_FALSE(outer.step(1).ok);
}
