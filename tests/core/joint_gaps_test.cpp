// Joints that are printed in place and lie so that their gap hangs: found, told, and turned the right way. Areas in
// closed form; that such a gap closes is common practice, no published source.
#include "made_project.h"
#include "project/analysis.h"
#include "project/cures.h"
#include "project/findings.h"
#include "project/joint_gaps.h"
#include "project/pose_choices.h"
#include <numbers>

using namespace lp;
using namespace lp::test;

namespace {

/// The part as it lies with a direction of the design up.
Transform lying(const Made& made, const Vec3& up) {
    return pose_transform(*made.part().mesh, -up, Vec3::Zero());
}
const double limit_deg = PrinterCard().overhang_limit_deg;

/// Two plates of 20 x 30, one over the other, `gap` apart.
Made plates(double gap) {
    return make(json::array(
        {block(20, 30, 4),
         step("block", {{"size_x", 20}, {"size_y", 30}, {"size_z", 4}, {"at_z", 4 + gap}, {"does", "new"}}, "upper")}));
}

std::vector<PartFinding> joints_told(const Made& made) {
    auto analysis = Analyser().analyse(made.evaluation);
    auto all = findings_of_part(made.evaluation, &*analysis, made.part().part);
    std::erase_if(all, [](const PartFinding& f) { return f.ref.kind != FindingKind::LyingJoint; });
    return all;
}

} // namespace

TEST(JointGaps, HangByTheirTrueArea) {
    const Made made = plates(0.4);
    ASSERT_EQ(made.says(), "");
    const auto gaps = joint_gaps(made.part());
    ASSERT_EQ(gaps.size(), 1u);
    EXPECT_NEAR(hanging_mm2(gaps, lying(made, Vec3::UnitZ()), limit_deg), 600, 6);
    EXPECT_NEAR(hanging_mm2(gaps, lying(made, -Vec3::UnitZ()), limit_deg), 600, 6) << "the other one looks down then";
    EXPECT_EQ(hanging_mm2(gaps, lying(made, Vec3::UnitX()), limit_deg), 0);
    // At 45 degrees it is at the limit, five more hang.
    for (auto [deg, hangs] : {std::pair(45.0, 0.0), {51.0, 600.0}, {39.0, 0.0}}) {
        const Vec3 up(std::cos(radians(deg)), 0, std::sin(radians(deg)));
        EXPECT_NEAR(hanging_mm2(gaps, lying(made, up), limit_deg), hangs, 6) << deg;
    }
    double bins = 0;
    for (const Vec3& area : area_vectors(gaps)) bins += area.norm();
    EXPECT_NEAR(bins, 1200, 12) << "both sides";
    EXPECT_TRUE(joint_gaps(plates(0).part()).empty()) << "they touch: one lump";
    EXPECT_TRUE(joint_gaps(plates(1.5).part()).empty()) << "far apart";
    EXPECT_TRUE(joint_gaps(make(json::array({block(9, 9, 9)})).part()).empty());
    EXPECT_TRUE(joint_gaps(PartResult()).empty());
}

TEST(JointGaps, JointsAsTheyWereMadeHangNowhere) {
    for (auto [kind, fields] : {std::pair("hinge", json{{"length", 36}, {"knuckles", 3}}),
                                std::pair("hinge", json{{"bumps", "cone"}, {"knuckles", 4}, {"length", 44}}),
                                std::pair("chain", json{{"links", 3}}), std::pair("captive_pin", json::object()),
                                std::pair("swivel_cap", json::object()), std::pair("captive_slider", json::object())}) {
        const Made made = make(json::array({step(kind, fields, "j")}));
        ASSERT_EQ(made.says(), "") << kind;
        EXPECT_TRUE(joints_told(made).empty()) << kind << ": " << joints_told(made)[0].finding.says;
        // On its head or its side some gap lies under what it carries.
        EXPECT_GT(hanging_mm2(joint_gaps(made.part()), lying(made, Vec3::UnitY()), limit_deg), 4) << kind;
    }
}

TEST(JointGaps, AHingeOnItsEndIsFoundAndTurned) {
    Made made = make(json::array({step("hinge", {{"length", 30}, {"knuckles", 3}}, "flap")}));
    auto stood = apply_edit(*made.project, SetPose{made.part().part, pose_with_up(Vec3::UnitY())});
    ASSERT_TRUE(stood) << stood.error().text();
    Evaluator evaluator;
    made.project = stood->project;
    made.evaluation = *evaluator.evaluate(made.project);
    const auto told = joints_told(made);
    ASSERT_EQ(told.size(), 1u);
    EXPECT_NE(told[0].finding.says.find("Between flap right leaf and flap left leaf"), std::string::npos)
        << told[0].finding.says;
    EXPECT_GT(told[0].finding.where.z(), 1);
    auto cures = tried_cures(evaluator, made.evaluation, told[0]);
    ASSERT_TRUE(cures);
    ASSERT_EQ(cures->size(), 1u);
    EXPECT_EQ(cures->front().cure.words, "Best way up");
    EXPECT_NE(cures->front().says.find("What hangs in its gap falls from"), std::string::npos) << cures->front().says;
    auto turned = apply_edit(*made.project, cures->front().cure.edit);
    ASSERT_TRUE(turned);
    made.project = turned->project;
    made.evaluation = *evaluator.evaluate(made.project);
    EXPECT_TRUE(joints_told(made).empty());
}

TEST(JointGaps, CountAmongWaysUp) {
    // Lying the plates are lowest and stand on most; only their gap speaks against it.
    const Made made = plates(0.4);
    const PartResult& part = made.part();
    PoseOptions options = pose_options(made.evaluation, *made.project->parts[0], part);
    options.best = 5;
    const auto counted = best_poses(*part.mesh, options);
    ASSERT_TRUE(counted);
    EXPECT_LT(std::fabs(counted->front().up.z()), 0.7);
    EXPECT_LT(counted->front().joints_hang_mm2, 1);
    for (const Pose& pose : *counted)
        if (pose.as_it_lies) {
            EXPECT_NEAR(pose.joints_hang_mm2, 600, 6);
        }
    options.weights = {};
    for (const PoseWeightRow& row : pose_weight_rows()) options.weights.*row.member = 0;
    options.weights.height_cm = 1;
    EXPECT_GT(std::fabs(best_poses(*part.mesh, options)->front().up.z()), 0.99);
    const auto choices = pose_choices(made.evaluation, part.part);
    ASSERT_TRUE(choices);
    EXPECT_NE(why_first(*choices).find("the gap of its joint does not hang"), std::string::npos) << why_first(*choices);
}
