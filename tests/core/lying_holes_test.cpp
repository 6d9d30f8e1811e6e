// Round holes that lie, against the chord of a circle one layer below its crown.
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "project/lying_holes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// A block of 40 x 30 x 20 with a hole through it along an axis, at its middle.
Made bored(const char* along, double diameter, json more = json::array()) {
    json steps{block(40, 30, 20, "b"), step("cylinder",
                                            {{"diameter", diameter},
                                             {"height", 60},
                                             {"along", along},
                                             {"at_x", std::string(along) == "x" ? -30 : 0},
                                             {"at_y", std::string(along) == "y" ? -30 : 0},
                                             {"at_z", std::string(along) == "z" ? -20 : 10},
                                             {"does", "cut"}},
                                            "bore")};
    for (json& s : more) steps.push_back(std::move(s));
    Made m = make(steps);
    EXPECT_EQ(m.says(), "");
    return m;
}

std::vector<LyingHole> holes_of(const Made& m, const Transform& pose = Transform::Identity(), double sag = 0) {
    PrinterCard card;
    card.lying_sag_mm = sag;
    return lying_holes(m.part(), pose, card);
}

} // namespace

TEST(LyingHoles, AreToldWithTheChordBelowTheirCrown) {
    for (const char* along : {"x", "y"})
        for (double d : {3.0, 8.0, 14.0}) {
            const auto holes = holes_of(bored(along, d), Transform::Identity(), 0.15);
            ASSERT_EQ(holes.size(), 1u) << along << d;
            EXPECT_NEAR(holes[0].diameter_mm, d, 1e-6);
            EXPECT_NEAR(holes[0].flat_mm, 2 * std::sqrt(d * d / 4 - (d / 2 - 0.2) * (d / 2 - 0.2)), 1e-6);
            EXPECT_NEAR(holes[0].low_mm, 0.2 + 0.15, 1e-9);
            EXPECT_NEAR(std::fabs(holes[0].axis[along[0] == 'x' ? 0 : 1]), 1, 1e-9);
            EXPECT_NEAR(holes[0].top.z(), 10 + d / 2, 0.1 * d);
        }
}

TEST(LyingHoles, WhatStandsIsSmallOrOpenAboveIsNone) {
    EXPECT_TRUE(holes_of(bored("z", 8)).empty()) << "it stands";
    EXPECT_TRUE(holes_of(bored("x", 2.5)).empty()) << "a line or two";
    // Cut open from above it is a gutter; from below an arch, whose roof is there.
    const json open_above{
        step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 20}, {"at_z", 10}, {"does", "cut"}})};
    EXPECT_TRUE(holes_of(bored("x", 10, open_above)).empty());
    const json open_below{
        step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 20}, {"at_z", -10}, {"does", "cut"}})};
    EXPECT_EQ(holes_of(bored("x", 10, open_below)).size(), 1u);
    // A round bar is no hole.
    EXPECT_TRUE(
        holes_of(make(json::array({step("cylinder", {{"diameter", 10}, {"height", 30}, {"along", "x"}})}))).empty());
    // Laid so that it stands.
    Transform upright = Transform::Identity();
    upright.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitY()));
    EXPECT_TRUE(holes_of(bored("x", 8), upright).empty());
}

TEST(LyingHoles, APointedRoofCuresThem) {
    Made m = bored("x", 10);
    ASSERT_EQ(holes_of(m).size(), 1u);
    const FindingRow& row = row_of(FindingKind::LyingHole);
    EXPECT_STREQ(row.id, "lying_hole");
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    ASSERT_TRUE(analysis);
    std::string says;
    for (const PartFinding& f : findings_of_part(m.evaluation, &*analysis, m.part().part))
        if (f.finding.kind == FindingKind::LyingHole) says = f.finding.says;
    EXPECT_EQ(says, "⌀ 10 mm along x: it comes out flat over 2.8 mm at its top and up to 0.2 mm low.");
    Made cured = bored("x", 10, json::array({step("pointed_roof", {{"face", "side of bore"}})}));
    EXPECT_TRUE(holes_of(cured).empty());
}
