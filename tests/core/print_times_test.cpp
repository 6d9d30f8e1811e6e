// Times that prints took: the factor of design notes worked out by hand, kept on the card, and time as people write it.
#include "base/duration.h"
#include "layers/layer_plan.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/project_json.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

TEST(PrintTimes, TheFactorIsTheMeanPulledToWhatIsExpected) {
    const TimedPrint first{"Mast", "2026-11-30", 22 * 3600.0, 29.4 * 3600}, second{"Box", "", 21.5 * 3600, 26 * 3600.0};
    // exp((0.5 ln 1.25 + ln 1.3364 + ln 1.2093) / 2.5) = 1.267: 27.9 and 27.3 h, 5 % off each way.
    const TimeFactor two = time_factor({first, second}, 0, 1.25);
    EXPECT_NEAR(two.factor, 1.268, 0.002);
    EXPECT_NEAR(22 * two.factor, 27.9, 0.05);
    EXPECT_NEAR(21.5 * two.factor, 27.3, 0.1);
    EXPECT_NEAR(two.off, 0.054, 0.002);
    EXPECT_EQ(two.prints, 2u);
    // One print with nothing expected: the cube root of its ratio squared.
    EXPECT_NEAR(time_factor({first}, 0).factor, std::cbrt(std::pow(29.4 / 22, 2)), 1e-9);
    // The heating is in both: it is not what was slow.
    EXPECT_NEAR(time_factor({{"", "", 600 + 300, 1200 + 300}}, 300, 2).factor, 2, 1e-9);
    EXPECT_EQ(time_factor({}, 180).factor, 1);
}

TEST(PrintTimes, LaterEstimatesFollowAndAreKept) {
    Project project = *make(json::array({block(20, 20, 20)})).project;
    Evaluation evaluation;
    evaluation.project = std::make_shared<Project>(project);
    const double before = plan_layers(cube(20), {}, layer_options(project, *project.parts[0]))->time_s;
    project.printer.timed = {{"Mast", "2026-11-30", 22 * 3600.0, 29.4 * 3600}};
    project.printer.infill = Infill::Gyroid;
    const LayerOptions options = layer_options(project, *project.parts[0]);
    const double factor = time_factor(project.printer.timed, plan_start_s).factor;
    EXPECT_GT(factor, 1.2);
    EXPECT_NEAR(plan_layers(cube(20), {}, options)->time_s, plan_start_s + factor * (before - plan_start_s), 1e-6);
    EXPECT_EQ(options.infill, Infill::Gyroid);
    auto again = project_from_text(project_to_json(project).dump());
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(again->printer, project.printer);
}

TEST(PrintTimes, WhatSaysNothingIsNotTaken) {
    EXPECT_FALSE(check_timed({"", "", 3600, 5000}));
    for (auto [told, took] : {std::pair{0.0, 5000.0},
                              {3600.0, 0.0},
                              {-3600.0, 3600.0},
                              {3600.0, 3600 * 11.0},
                              {1e9, 1e9},
                              {std::nan(""), 3600.0}})
        EXPECT_TRUE(check_timed({"", "", told, took})) << told << " " << took;
    auto project = project_from_text(R"({"format":"loose-peg","version":1,"printer":{"timed":[
        {"told_s":0,"took_s":5000},{"told_s":3600,"took_s":4000,"what":"Peg"}],"infill":"waves"}})");
    ASSERT_TRUE(project);
    ASSERT_EQ(project->printer.timed.size(), 1u);
    EXPECT_EQ(project->printer.timed[0].what, "Peg");
    EXPECT_EQ(project->printer.infill, Infill::Lines);
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"printer":{"timed":[{"told_s":"an hour"}]}})"));
}

TEST(PrintTimes, AreReadAsPeopleWriteThem) {
    const std::pair<const char*, double> good[] = {
        {"29.4", 29.4 * 3600}, {"3 h 42 min", 13320}, {"3h42min", 13320},  {"3:42", 13320},    {" 45 min ", 2700},
        {"90 s", 90},          {"1 d 2 h", 93600},    {"0.5 hours", 1800}, {"1 H 30 M", 5400}, {".5", 1800}};
    for (const auto& [text, seconds] : good) {
        const auto read = read_duration(text);
        ASSERT_TRUE(read) << text;
        EXPECT_NEAR(*read, seconds, 1e-6) << text;
    }
    for (const char* bad : {"", "h", "three", "3 x", "-3", "3:99", "3:4:5", "3.5:10", "3 min 2 h", "3 h 4", "1e99",
                            "nan", "5 d 1:00", "2 h 2 h"})
        EXPECT_FALSE(read_duration(bad)) << bad;
}
