// Ways up of a part of a project: against areas and volumes that are known, and the sentence that gives the reason.
#include "made_project.h"
#include "project/pose_choices.h"
#include <gtest/gtest.h>

using namespace lp;
using namespace lp::test;

namespace {
/// A table: a top of 60 x 40 x 4 on a leg of 8 x 8 x 20.
Made table() {
    return make({step("block", {{"size_x", "8"}, {"size_y", "8"}, {"size_z", "20"}}),
                 step("block", {{"size_x", "60"}, {"size_y", "40"}, {"size_z", "4"}, {"at_z", "20"}})});
}
} // namespace

TEST(PoseChoices, ATableIsBestOnItsTop) {
    Made m = table();
    ASSERT_EQ(m.says(), "");
    auto choices = pose_choices(m.evaluation, m.part().part);
    ASSERT_TRUE(choices) << choices.error().text();
    ASSERT_GE(choices->size(), 2u);
    const PoseChoice& first = choices->front();
    EXPECT_NEAR(first.pose.up.z(), -1, 1e-6) << "turned over";
    EXPECT_EQ(first.supports_mm3, 0);
    EXPECT_NEAR(first.pose.footprint_mm2, 60 * 40, 1e-3);
    EXPECT_FALSE(first.pose.as_it_lies);
    const auto now =
        std::find_if(choices->begin(), choices->end(), [](const PoseChoice& c) { return c.pose.as_it_lies; });
    ASSERT_NE(now, choices->end());
    EXPECT_EQ(std::count_if(choices->begin(), choices->end(), [](const PoseChoice& c) { return c.pose.as_it_lies; }),
              1);
    EXPECT_NEAR(now->pose.up.z(), 1, 1e-6);
    EXPECT_NEAR(now->pose.overhang_area_mm2, 60 * 40 - 64, 1);
    EXPECT_GT(now->supports_mm3, 500);
    EXPECT_GT(now->mass_g, first.mass_g) << "supports are plastic too";
    EXPECT_GT(now->time_s, first.time_s);
    const std::string why = why_first(*choices);
    EXPECT_NE(why.find("no supports"), std::string::npos) << why;
    EXPECT_NE(why.find("nothing hangs (now 23.4 cm²)"), std::string::npos) << why << ": 60 x 40 less the leg's 64 mm2";
}

TEST(PoseChoices, WhatLiesWellSaysSo) {
    Made m = make({step("block", {{"size_x", "40"}, {"size_y", "30"}, {"size_z", "5"}}),
                   step("block", {{"size_x", "20"}, {"size_y", "20"}, {"size_z", "5"}, {"at_z", "5"}})});
    auto choices = pose_choices(m.evaluation, m.part().part);
    ASSERT_TRUE(choices);
    EXPECT_TRUE(choices->front().pose.as_it_lies);
    EXPECT_EQ(why_first(*choices), "It lies best as it is.");
    EXPECT_EQ(why_first({}), "");
}

TEST(PoseChoices, StoppedOrWithoutABodyItSaysSo) {
    Made m = table();
    Task task;
    task.cancel.cancel();
    auto stopped = pose_choices(m.evaluation, m.part().part, task);
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
    EXPECT_FALSE(pose_choices(m.evaluation, PartId(999)));
}

TEST(PoseChoices, APoseWithAWayUpLaysTheOtherWayDown) {
    const PrintPose pose = pose_with_up(Vec3(1e-12, 0, -2));
    EXPECT_EQ(pose.down, Vec3(0, 0, 1));
    EXPECT_FALSE(pose.face);
}
