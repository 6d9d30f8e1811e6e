// Snaps, clips and living hinges: strains and forces against closed formulas and handbook values, shapes against their
// volumes, and the way they must be printed.
#include "made_project.h"
#include "project/findings.h"
#include "project/pose_choices.h"
#include "steps/fits/bending_beam.h"
#include <gmock/gmock.h>
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;
using testing::HasSubstr;

namespace {

double volume_of(const Made& m, size_t body = 0) {
    return m.part().bodies.at(body).body.mass().volume_mm3;
}

size_t across_layers(const Made& m) {
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    size_t found = 0;
    for (const PartFinding& f : all_findings(m.evaluation, &*analysis))
        found += f.ref.kind == FindingKind::AcrossLayers;
    return found;
}

} // namespace

TEST(BendingBeam, AgreesWithTheHandbook) {
    // reference/tables.md 11: h 2, y 1, L 20 gives 0.0075; b 5 and E 2000 give 2.5 N; pushed in at 30 degrees 2.652 N.
    const BendingBeam beam{20, 2, 5, 1, 2000};
    EXPECT_NEAR(beam.strain_at(1), 0.0075, 1e-9);
    EXPECT_NEAR(beam.force_n(1), 2.5, 1e-6);
    EXPECT_NEAR(mating_force(2.5, pi / 6), 2.652, 1e-3);
    EXPECT_NEAR(beam.length_for(1, 0.0075), 20, 1e-9);
    // Tapered to half: y = 1.09 strain L² / h, the same table.
    const BendingBeam tapered{20, 2, 5, 0.5, 2000};
    EXPECT_NEAR(1 / (tapered.strain_at(1) * 400 / 2), 1.09, 0.005);
    EXPECT_TRUE(std::isinf(mating_force(1, pi / 2))) << "a square side does not slide";
    EXPECT_TRUE(std::isinf(mating_force(1, std::atan(1 / sliding_friction)))) << "it jams";
}

TEST(BendingBeam, ASlitRingOpensAsCastiglianoSays) {
    // A thin ring slit at one place, from its far side to its tip: each end goes 3/2 pi F R³ / EI.
    const BendingArc half{10, 1, 4, 0, pi, 2000};
    const double inertia = 4.0 / 12, force = 1.5;
    const double aside = 1.5 * pi * force * 1000 / (2000 * inertia);
    EXPECT_NEAR(half.force_n(aside), force, 1e-9);
    // Its far side bears F times the whole diameter.
    EXPECT_NEAR(half.strain_at(aside), force * 20 * 0.5 / (2000 * inertia), 1e-12);
    // A quarter of it: pi/4 F R³ / EI, from integrating cos² over a right angle.
    const BendingArc quarter{10, 1, 4, 0, pi / 2, 2000};
    EXPECT_NEAR(quarter.force_n(pi / 4 * force * 1000 / (2000 * inertia)), force, 1e-9);
    EXPECT_NEAR(web_strain(0.4, 5 * pi, pi), 0.4 / 10, 1e-12) << "thickness over twice the radius of 5";
}

TEST(SnapHook, HasItsShapeAndTellsItsStrain) {
    const Made m = make({block(30, 20, 4, "lid"), step("snap_hook", {{"on", "top of lid"},
                                                                     {"at_x", "15 mm"},
                                                                     {"at_y", "10 mm"},
                                                                     {"length", "20 mm"},
                                                                     {"thick", "2 mm"},
                                                                     {"wide", "5 mm"},
                                                                     {"catches", "1 mm"}})});
    ASSERT_TRUE(m.step(1).ok) << m.says();
    // The arm up to its top, and the nose: a land half a millimetre high and the slope that leads in.
    const double slope = 1 / std::tan(pi / 6), top = 20 + 0.5 + slope;
    EXPECT_NEAR(volume_of(m), 30 * 20 * 4 + 5 * (2 * top + 0.5 + slope / 2), 1e-3);
    EXPECT_EQ(m.part().bodies[0].body.pieces(), 1);
    EXPECT_TRUE(m.part().bodies[0].body.is_exact());
    // By hand: a root strained by 3 * 2 * 1 / (2 * 400) needs 2.5 N: the handbook's example.
    EXPECT_THAT(m.step(1).says, HasSubstr("% of 2 %"));
    EXPECT_THAT(m.step(1).says, HasSubstr("2.7 N push it in, it does not come out by itself"));
    EXPECT_FALSE(m.step(1).cure);
    // As it lies the hook stands up.
    EXPECT_EQ(across_layers(m), 1u);
}

TEST(SnapHook, TooStiffIsCuredByItsLength) {
    const json lid = block(30, 20, 4, "lid");
    const Made stiff = make({lid, step("snap_hook", {{"on", "top of lid"},
                                                     {"at_x", "15 mm"},
                                                     {"at_y", "10 mm"},
                                                     {"length", "8 mm"},
                                                     {"thick", "2 mm"},
                                                     {"catches", "1.5 mm"}})});
    // 3 * 2 * 1.5 / (2 * 64) = 7.0 %.
    EXPECT_THAT(stiff.step(1).says, HasSubstr("strained by 7 %, more than the 2 %"));
    ASSERT_TRUE(stiff.step(1).cure);
    EXPECT_EQ(stiff.step(1).cure->field, "length");
    EXPECT_EQ(stiff.step(1).cure->text, "15 mm") << "the root of 3 * 2 * 1.5 / (2 * 0.02)";
    const Made cured = make({lid, step("snap_hook", {{"on", "top of lid"},
                                                     {"at_x", "15 mm"},
                                                     {"at_y", "10 mm"},
                                                     {"length", stiff.step(1).cure->text},
                                                     {"thick", "2 mm"},
                                                     {"catches", "1.5 mm"}})});
    EXPECT_FALSE(cured.step(1).cure) << cured.step(1).says;
}

TEST(SnapHook, WhatCannotBendIsRefused) {
    auto says = [](const json& more) {
        json fields{{"on", "top of lid"}, {"at_x", "15 mm"}, {"at_y", "10 mm"}};
        fields.update(more);
        return make({block(30, 20, 4, "lid"), step("snap_hook", fields)}).says();
    };
    EXPECT_THAT(says({{"thick", "0.6 mm"}}), HasSubstr("thinner than two lines"));
    EXPECT_THAT(says({{"length", "4 mm"}}), HasSubstr("does not bend"));
    EXPECT_THAT(says({{"tip", "0.5 mm"}, {"thick", "3 mm"}}), HasSubstr("two lines"));
    EXPECT_THAT(says({{"tip", "1.2 mm"}, {"thick", "3 mm"}}), HasSubstr("half as thick"));
    EXPECT_NE(says({{"catches", "-1 mm"}}), "");
    EXPECT_NE(says({{"lead", "0 deg"}}), "");
    EXPECT_EQ(says({{"tip", "1.5 mm"}, {"thick", "3 mm"}}), "");
}

TEST(SnapHook, LyingItHolds) {
    // Pointing along x it lies as the block does.
    const Made m = make(
        {block(30, 20, 4, "bar"), step("snap_hook", {{"on", "right of bar"}, {"at_x", "10 mm"}, {"at_y", "2 mm"}})});
    ASSERT_TRUE(m.step(1).ok) << m.says();
    EXPECT_EQ(across_layers(m), 0u);
    // Turned up afterwards, what bends turns with it.
    const Made up =
        make({block(30, 20, 4, "bar"), step("snap_hook", {{"on", "right of bar"}, {"at_x", "10 mm"}, {"at_y", "2 mm"}}),
              step("turn", {{"axis", "y"}, {"angle", "90 deg"}})});
    EXPECT_EQ(across_layers(up), 1u) << up.says();
}

TEST(RodClip, HasItsShapeAndTellsItsMouth) {
    const Made m = make({block(40, 20, 4, "base"), step("rod_clip", {{"on", "top of base"},
                                                                     {"at_x", "20 mm"},
                                                                     {"at_y", "10 mm"},
                                                                     {"rod", "10 mm"},
                                                                     {"thick", "2 mm"},
                                                                     {"wide", "8 mm"},
                                                                     {"wraps", "260 deg"},
                                                                     {"fit", "0 mm"}})});
    ASSERT_TRUE(m.step(1).ok) << m.says();
    // The ring sector, its two round tips, and what of the foot lies outside the ring: below it as far as its bore.
    const double R = 7, r = 5, middle = 8, half = 0.55 * R, root = std::asin(0.55);
    const double under = 2 * (half * middle - (half * R * std::cos(root) / 2 + R * R * root / 2));
    const double area = 260 / 360.0 * pi * (R * R - r * r) + pi * 1 * 1 + under;
    EXPECT_NEAR(volume_of(m), 40 * 20 * 4 + 8 * area, 0.01);
    // The mouth between the round tips: 2 * 6 * sin 130° - 2.
    EXPECT_THAT(m.step(1).says, HasSubstr("mouth is 7.19 mm wide"));
    EXPECT_THAT(m.step(1).says, HasSubstr("more than the 2 %"));
    EXPECT_EQ(across_layers(m), 1u) << "the rod's axis lies: layers cross the ring's flanks";
    const Made falls = make(
        {block(40, 20, 4, "base"),
         step("rod_clip",
              {{"on", "top of base"}, {"at_x", "20 mm"}, {"at_y", "10 mm"}, {"wraps", "185 deg"}, {"fit", "loose"}})});
    EXPECT_THAT(falls.step(1).says, HasSubstr("the rod falls out"));
    EXPECT_THAT(make({block(40, 20, 4, "base"), step("rod_clip", {{"on", "top of base"},
                                                                  {"at_x", "20 mm"},
                                                                  {"at_y", "10 mm"},
                                                                  {"wraps", "330 deg"},
                                                                  {"thick", "4 mm"}})})
                    .says(),
                HasSubstr("no mouth"));
}

TEST(LivingHinge, LeavesItsWebAndTellsItsStrain) {
    const Made m = make({block(40, 20, 2, "plate"), step("living_hinge", {{"on", "top of plate"},
                                                                          {"at_x", "20 mm"},
                                                                          {"at_y", "10 mm"},
                                                                          {"turn", "90 deg"},
                                                                          {"web", "0.4 mm"},
                                                                          {"length", "5 mm"},
                                                                          {"folds", "180 deg"}})});
    ASSERT_TRUE(m.step(1).ok) << m.says();
    EXPECT_NEAR(volume_of(m), 40 * 20 * 2 - 20 * 5 * 1.6, 1e-6);
    // 0.4 * pi / (2 * 5) = 12.6 %; for 2 %: 31.42 mm, which is more than pi * 1.6 for its sides.
    EXPECT_THAT(m.step(1).says, HasSubstr("strained by 12.6 %, more than the 2 %"));
    EXPECT_THAT(m.step(1).says, HasSubstr("the sides of the cut meet"));
    ASSERT_TRUE(m.step(1).cure);
    EXPECT_EQ(m.step(1).cure->text, "31.5 mm");
    EXPECT_EQ(across_layers(m), 0u);
    // Opened wider no sides meet; another material stands it.
    const Made open = make({block(40, 20, 2, "plate"), step("living_hinge", {{"on", "top of plate"},
                                                                             {"at_x", "20 mm"},
                                                                             {"at_y", "10 mm"},
                                                                             {"length", "5 mm"},
                                                                             {"folds", "180 deg"},
                                                                             {"way", "open"}})});
    ASSERT_TRUE(open.step(1).cure);
    EXPECT_EQ(open.step(1).says.find("sides"), std::string::npos) << open.step(1).says;
    auto own = std::make_shared<Project>(*open.project);
    own->material.strain_percent = 40;
    Evaluator evaluator;
    auto soft = evaluator.evaluate(own);
    ASSERT_TRUE(soft);
    EXPECT_FALSE(soft->parts[0].steps[1].cure) << soft->parts[0].steps[1].says;
    EXPECT_NEAR(volume_of(open), 40 * 20 * 2 - 40 * 5 * 1.6, 1e-6);
}

TEST(LivingHinge, AskedForWhereItCannotBeItSaysSo) {
    auto says = [](const json& more) {
        json fields{{"on", "top of plate"}, {"at_x", "20 mm"}, {"at_y", "10 mm"}};
        fields.update(more);
        return make({block(40, 20, 2, "plate"), step("living_hinge", fields)}).says();
    };
    EXPECT_THAT(says({{"web", "2 mm"}}), HasSubstr("no web is left"));
    EXPECT_THAT(says({{"at_y", "80 mm"}, {"at_x", "20 mm"}}), HasSubstr("nothing below"));
    const std::string uneven =
        make({block(40, 20, 4, "plate"),
              step("block", {{"size_x", 10}, {"size_y", 20}, {"size_z", 2}, {"at_x", 10}, {"does", "cut"}}),
              step("living_hinge", {{"on", "top of plate"}, {"at_x", "20 mm"}, {"at_y", "10 mm"}})})
            .says();
    EXPECT_THAT(uneven, HasSubstr("2 mm to 4 mm thick"));
}

TEST(SnapHook, WaysUpLayItAlongTheLayers) {
    const Made m =
        make({block(12, 12, 12, "foot"),
              step("snap_hook", {{"on", "top of foot"}, {"at_x", "6 mm"}, {"at_y", "6 mm"}, {"length", "25 mm"}})});
    auto choices = pose_choices(m.evaluation, m.project->parts[0]->id);
    ASSERT_TRUE(choices) << choices.error().text();
    EXPECT_LT(choices->front().pose.load_across, 0.1) << "the hook lies in the best of them";
    EXPECT_THAT(why_first(*choices), HasSubstr("the load runs along the layers"));
}
