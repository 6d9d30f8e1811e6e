// What is known of a body without looking at its triangles: its box, volume, area and centre. Against the body's own
// fine triangles (a second way) and closed formulas (elementary, from memory).
#include "formats/formats.h"
#include "made_project.h"
#include "mesh/soundness.h"
#include "project/edit.h"
#include "project/evaluate.h"
#include "project/movement_check.h"
#include "shape/copies.h"
#include "shape/exact_shape.h"
#include "shape/face_mass.h"
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// Parts with flat, round, ring, ball and free faces.
std::vector<std::pair<const char*, json>> bodies() {
    return {
        {"rounded box", json::array({block(40, 30, 12), step("fillet", {{"edges", "all"}, {"radius", 4}})})},
        {"rim", json::array({step("cylinder", {{"diameter", 30}, {"height", 12}}, "rod"),
                             step("fillet", {{"edges", "of top of rod"}, {"radius", 3}})})},
        {"ring", json::array({step("ring", {{"diameter", 30}, {"thickness", 6}})})},
        {"wedge of a ring", json::array({step("ring", {{"diameter", 30}, {"thickness", 6}}),
                                         step("split", {{"by", "xz"}, {"keep", "above"}})})},
        {"egg", json::array({step("sphere", {{"diameter", 20}}), step("scale", {{"by_x", 1.4}, {"by_z", 0.8}})})},
        {"shell", json::array({block(40, 30, 20), step("fillet", {{"edges", "upright"}, {"radius", 5}}),
                               step("shell", {{"open", "top of b"}, {"wall", "2 mm"}})})},
        {"cone", json::array({step("cone", {{"diameter", 20}, {"top_diameter", 6}, {"height", 15}}),
                              step("cylinder",
                                   {{"diameter", 3}, {"height", 30}, {"along", "x"}, {"at_z", 5}, {"does", "cut"}})})},
    };
}

} // namespace

TEST(BodyBox, IsTheSmallestOneHoweverTheBodyIsTurned) {
    Transform turn = Transform::Identity();
    for (int round = 0; round < 3; ++round) {
        for (auto& [name, steps] : bodies()) {
            Made m = make(steps);
            ASSERT_EQ(m.says(), "") << name;
            auto turned = moved(m.body(), turn);
            ASSERT_TRUE(turned) << name;
            auto fine = tessellate(*turned, 0.02);
            ASSERT_TRUE(fine) << name;
            Box3 box = turned->box(), seen = bounding_box(fine->mesh);
            // Triangles lie inside by their deflection at most.
            EXPECT_LT((seen.min() - box.min()).cwiseAbs().maxCoeff(), 0.06) << name << " " << round;
            EXPECT_LT((seen.max() - box.max()).cwiseAbs().maxCoeff(), 0.06) << name << " " << round;
            EXPECT_GT((seen.min() - box.min()).minCoeff(), -1e-6) << name << " " << round;
            EXPECT_GT((box.max() - seen.max()).minCoeff(), -1e-6) << name << " " << round;
        }
        turn.rotate(Eigen::AngleAxisd(0.6, Vec3(1, round, 2 - round).normalized()));
        turn.pretranslate(Vec3(5, -3, 2));
    }
}

TEST(FaceMass, AlongTheEdgesIsTheSameAsTheKernelsQuadratureOverTheFace) {
    // The second way is another library's: BRepGProp, with its own estimate of the error.
    auto all = bodies();
    all.emplace_back(
        "ball, cut askew",
        json::array(
            {step("sphere", {{"diameter", 20}}), step("turn", {{"angle", "35 deg"}, {"axis", "x"}}),
             step("cylinder", {{"diameter", 9}, {"height", 40}, {"at_x", 4}, {"at_z", -20}, {"does", "cut"}})}));
    all.emplace_back(
        "ring, bored",
        json::array(
            {step("ring", {{"diameter", 30}, {"thickness", 8}}),
             step("cylinder", {{"diameter", 3}, {"height", 60}, {"along", "x"}, {"at_x", -30}, {"does", "cut"}})}));
    all.emplace_back("cone, cut askew",
                     json::array({step("cone", {{"diameter", 20}, {"top_diameter", 0}, {"height", 18}}),
                                  step("turn", {{"angle", "30 deg"}, {"axis", "y"}}),
                                  step("split", {{"by", "xy"}, {"distance", "4 mm"}, {"keep", "above"}})}));
    all.emplace_back("cylinders crossing",
                     json::array({step("cylinder", {{"diameter", 12}, {"height", 30}}),
                                  step("cylinder", {{"diameter", 8}, {"height", 30}, {"along", "x"}, {"at_z", 14}})}));
    all.emplace_back("shell as thick as its rounds",
                     json::array({block(40, 30, 20), step("fillet", {{"edges", "upright"}, {"radius", 5}}),
                                  step("fillet", {{"edges", "of top of b"}, {"radius", 2}}),
                                  step("shell", {{"open", "bottom of b"}, {"wall", 2}})}));
    for (auto& [name, steps] : all) {
        Made m = make(steps);
        ASSERT_EQ(m.says(), "") << name;
        Transform turn = Transform::Identity();
        turn.rotate(Eigen::AngleAxisd(0.7, Vec3(1, 2, -1).normalized()));
        Affine mirror = Affine::Identity();
        mirror.linear() << 0, 1, 0, 1, 0, 0, 0, 0, 1;
        for (const Body& body : {m.body(), moved(m.body(), turn).value(), mapped(m.body(), mirror).value()}) {
            const Vec3 from(3, -2, 5);
            double all_mm2 = body.mass().area_mm2, reach = body.box().diagonal().norm() + from.norm();
            for (TopExp_Explorer it(body.exact()->shape, TopAbs_FACE); it.More(); it.Next()) {
                const TopoDS_Face face = TopoDS::Face(it.Current());
                FaceMass one = face_mass(face, from), two = face_mass_by_quadrature(face, from);
                EXPECT_NEAR(one.area_mm2, two.area_mm2, 2e-6 * all_mm2) << name;
                EXPECT_NEAR(one.volume_mm3, two.volume_mm3, 2e-6 * all_mm2 * reach) << name;
                EXPECT_LT((one.moment - two.moment).norm(), 2e-6 * all_mm2 * reach * reach) << name;
            }
        }
    }
}

TEST(BodyMass, VolumeAreaAndCentreAreThoseOfFineTriangles) {
    for (auto& [name, steps] : bodies()) {
        Made m = make(steps);
        ASSERT_EQ(m.says(), "") << name;
        auto fine = tessellate(m.body(), 0.01);
        ASSERT_TRUE(fine) << name;
        MassProperties seen = mass_properties(fine->mesh), known = m.body().mass();
        EXPECT_NEAR(seen.volume_mm3, known.volume_mm3, 0.02 * known.area_mm2) << name;
        EXPECT_NEAR(seen.area_mm2, known.area_mm2, 0.003 * known.area_mm2) << name;
        EXPECT_LT((seen.centre - known.centre).norm(), 0.01) << name;
    }
    // A block with a bore off its middle: the centre by moments, exactly.
    Made m = make({block(40, 20, 10),
                   step("cylinder", {{"diameter", 8}, {"height", 30}, {"at_x", 12}, {"at_z", -5}, {"does", "cut"}})});
    ASSERT_EQ(m.says(), "");
    double whole = 40 * 20 * 10, bore = pi * 16 * 10, shift = -bore * 12 / (whole - bore);
    Vec3 middle = m.body().box().center();
    EXPECT_LT((m.body().mass().centre - (middle + Vec3(shift, 0, 0))).norm(), 1e-9);
    EXPECT_NEAR(m.body().mass().volume_mm3, whole - bore, 1e-7);
    EXPECT_NEAR(m.body().mass().area_mm2, 2 * (800 + 400 + 200) - 2 * pi * 16 + pi * 8 * 10, 1e-7);
}

TEST(BodyTriangles, RoundAndFreeFacesOfOneBodyMeetWithoutAGap) {
    // Free faces are triangulated after the others: their common edges must have the same places.
    json loft = json::array(
        {step("sphere", {{"diameter", 20}}, "ball"), step("scale", {{"by_x", 1.5}}),
         step("cylinder", {{"diameter", 8}, {"height", 30}, {"at_z", -5}}, "rod"),
         step("cylinder",
              {{"diameter", 4}, {"height", 60}, {"along", "x"}, {"at_x", -30}, {"at_z", 10}, {"does", "cut"}})});
    Made m = make(loft);
    ASSERT_EQ(m.says(), "");
    ASSERT_TRUE(m.body().is_exact());
    for (double deflection : {0.1, 0.02}) {
        auto t = tessellate(m.body(), deflection);
        ASSERT_TRUE(t);
        Soundness sound = check_soundness(t->mesh);
        EXPECT_TRUE(sound.closed) << deflection;
        EXPECT_FALSE(sound.inside_out) << deflection;
        EXPECT_NEAR(mass_properties(t->mesh).volume_mm3, m.body().mass().volume_mm3,
                    2 * deflection * m.body().mass().area_mm2);
    }
}

TEST(Evaluation, AStepThatTurnedOutWrongIsCheckedBeforeOthersAreMadeOnIt) {
    // A wall exactly as thick as a round: the kernel's own shell is wrong, its hollow remade from the steps holds.
    json steps =
        json::array({block(60, 40, 25), step("fillet", {{"edges", "upright"}, {"radius", 5}}),
                     step("fillet", {{"edges", "of top of b"}, {"radius", 2}}),
                     step("shell", {{"open", "bottom of b"}, {"wall", "2 mm"}}),
                     step("cylinder", {{"diameter", 6}, {"height", 20}}, "post"),
                     step("cylinder", {{"diameter", 3}, {"height", 15}, {"at_z", -1}, {"does", "cut"}}, "bore")});
    Made m = make(steps);
    ASSERT_EQ(m.says(), "");
    Evaluator evaluator;
    ProjectPtr now = m.project;
    double last = 0;
    for (int round = 0; round < 3; ++round) {
        auto edited = apply_edit(*now, SetField{now->parts[0]->id, now->parts[0]->steps[0].id, "size_z",
                                                std::to_string(25 + round) + " mm"});
        ASSERT_TRUE(edited);
        now = edited->project;
        auto evaluation = evaluator.evaluate(now);
        ASSERT_TRUE(evaluation);
        for (const StepOutcome& s : evaluation->parts[0].steps) EXPECT_TRUE(s.ok) << s.says;
        EXPECT_EQ(evaluation->parts[0].steps[3].says, "") << "the wall is as asked for, with no hair more or less";
        // Every millimetre more of height adds a ring of wall (outline less its inner offset); to 1 %.
        double volume = evaluation->parts[0].mass.volume_mm3;
        auto outline = [](double r, double inset) {
            double x = 60 - 2 * inset, y = 40 - 2 * inset;
            return x * y - (4 - pi) * (r - inset) * (r - inset);
        };
        if (round > 0) {
            EXPECT_NEAR(volume - last, outline(5, 0) - outline(5, 2), 1e-3);
        }
        last = volume;
        EXPECT_EQ(evaluator.last_counts().made, steps.size() + 3)
            << "each step once, and those before the shell inside";
    }
}

TEST(MovementCheck, OnlyWhatTheBodyComesNearIsLookedAt) {
    Made m = make_parts(
        {{"Arm", json::array({block(10, 4, 4)})},
         {"Stop", json::array({step("block", {{"size_x", 4}, {"size_y", 4}, {"size_z", 4}, {"at_x", 20}})})},
         {"Far", json::array({step("block", {{"size_x", 4}, {"size_y", 4}, {"size_z", 4}, {"at_y", 200}})})}});
    ASSERT_EQ(m.says(), "");
    KeptMovement slide;
    slide.moving = "Arm";
    slide.kind = "slide";
    slide.direction = {"1", "0", "0"};
    slide.from = "0 mm";
    slide.to = "15 mm";
    slide.step = "0.5 mm";
    auto outcome = run_movement(m.evaluation, slide);
    ASSERT_TRUE(outcome) << outcome.error().text();
    EXPECT_EQ(outcome->still, std::vector<std::string>{"Stop"});
    ASSERT_TRUE(outcome->result.first_contact);
    EXPECT_NEAR(*outcome->result.first_contact, 13, 0.01); // 20 - 2 - 5
    slide.direction = {"0", "0", "1"};
    slide.to = "-90 mm";
    auto alone = run_movement(m.evaluation, slide);
    ASSERT_TRUE(alone);
    EXPECT_FALSE(alone->result.first_contact);
}
