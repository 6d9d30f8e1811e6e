// Print plans made elsewhere: sums of moves by hand, times of motion in closed form, hostile files.
#include "layers/read_layers.h"
#include <gtest/gtest.h>
#include <numbers>
#include <sstream>

using namespace lp;
using std::numbers::pi;

namespace {

PrintPlan read(const std::string& text) {
    auto plan = read_gcode(text);
    EXPECT_TRUE(plan) << (plan ? "" : plan.error().text());
    return plan.value_or(PrintPlan{});
}
std::string refusal(const std::string& text) {
    auto plan = read_gcode(text);
    return plan ? "" : plan.error().text();
}

/// A square wall, one line a layer, of `side` about the origin; filament as a line `wide` wide needs.
std::string square_tower(double side, int layers, double wide, double high = 0.2) {
    std::ostringstream out;
    out << "G21\nG90\nM83\n";
    const double filament = side * wide * high / (pi / 4 * 1.75 * 1.75), h = side / 2;
    for (int k = 1; k <= layers; ++k) {
        out << "G0 X" << -h << " Y" << -h << " Z" << k * high << " F9000\n";
        for (auto [x, y] : {std::pair{h, -h}, {h, h}, {-h, h}, {-h, -h}})
            out << "G1 X" << x << " Y" << y << " E" << filament << " F2400\n";
    }
    return out.str();
}

} // namespace

TEST(Gcode, AbsoluteRelativeInchesAndCommentsComeToTheSame) {
    const std::string absolute = "G90\nM82\nG1 X0 Y0 Z0.2 F6000\nG1 X10 E1\nG1 Y10 E2\n";
    const std::string relative = "g91 ; turned round\nN2 G1 Z.2 F6000*37\nG1X10E1\n(all of it) G1 Y10 (up) E+1\r\n";
    const std::string inches =
        "G20\nG90\nM83\nG1 Z0.007874016 F236.220\nG1 X0.393700787 E0.0393700787\nG1 Y0.393700787 E0.0393700787\n";
    for (const std::string& text : {absolute, relative, inches}) {
        const PrintPlan plan = read(text);
        ASSERT_EQ(plan.moves.size(), 3u) << text;
        EXPECT_NEAR(plan.filament_mm, 2, 1e-6);
        EXPECT_LT((plan.moves.back().to - Eigen::Vector3f(10, 10, 0.2f)).norm(), 1e-4f) << text;
        EXPECT_NEAR(plan.moves.back().speed_mm_s, 100, 1e-3);
    }
    // Set anew: filament begins at 0 again, a place is called another.
    const PrintPlan anew = read("G1 X5 E3 F600\nG92 E0 X0\nG1 X5 E1\n");
    EXPECT_NEAR(anew.filament_mm, 4, 1e-6);
    EXPECT_NEAR(anew.moves.back().to.x(), 10, 1e-5);
    EXPECT_EQ(read("T0\nG1 X5 E3 F600\nT2\nG1 X9 E1\n").tools, 3u);
    EXPECT_EQ(read("M117 Half way there X9\nG1 X5 E1 F60\n").moves.size(), 1u) << "words for people";
}

TEST(Gcode, ArcsByCentreAndByRadius) {
    for (const char* arc : {"G2 X10 Y0 I5 J0 E1\n", "G2 X10 Y0 R5 E1\n"}) {
        const PrintPlan plan = read(std::string("M83\nG1 X0 Y0 F600\n") + arc);
        double length = 0, top = 0;
        Eigen::Vector3f from = plan.begin;
        for (const PlanMove& move : plan.moves) {
            length += double((move.to - from).norm());
            top = std::max(top, double(move.to.y()));
            from = move.to;
        }
        EXPECT_NEAR(length, pi * 5, 0.02) << arc;
        EXPECT_NEAR(top, 5, 0.02) << "clockwise goes over the top";
        EXPECT_NEAR(plan.filament_mm, 1, 1e-6);
    }
    const PrintPlan whole = read("M83\nG3 X0 Y0 I5 J0 E1 F600\n");
    double length = 0;
    Eigen::Vector3f from = whole.begin;
    for (const PlanMove& move : whole.moves) length += double((move.to - from).norm()), from = move.to;
    EXPECT_NEAR(length, 2 * pi * 5, 0.04) << "back where it began: a whole circle";
}

TEST(Gcode, LayersAreasAndFilamentOfATower) {
    auto layers = read_layers(read(square_tower(20, 30, 0.5)));
    ASSERT_TRUE(layers) << layers.error().text();
    EXPECT_EQ(layers->plan.layers.size(), 30u);
    EXPECT_EQ(layers->lines, 120u);
    EXPECT_NEAR(layers->plan.height_mm, 6, 1e-4);
    EXPECT_LT((layers->box.min() - Vec3(-10, -10, 0.2)).norm(), 1e-4);
    EXPECT_LT((layers->box.max() - Vec3(10, 10, 6)).norm(), 1e-4);
    const double filament = 30 * 80 * 0.5 * 0.2 / (pi / 4 * 1.75 * 1.75);
    EXPECT_NEAR(layers->plan.filament_mm, filament, 1e-2);
    EXPECT_NEAR(layers->plan.mass_g, 30 * 80 * 0.5 * 0.2 / 1000 * 1.24, 1e-3);
    // A frame of lines 0.5 wide with round corners, by squares of a tenth.
    const double round = 4 * (0.25 * 0.25 * pi / 4 - 0.25 * 0.25);
    EXPECT_NEAR(layers->plan.layers[0].area_mm2, 20.5 * 20.5 - 19.5 * 19.5 + round, 0.8);
    EXPECT_TRUE(layers->plan.islands.empty());
    EXPECT_EQ(layers->plan.layers[7].unsupported_mm2, 0);
    // By distance: 80 mm a layer at 40, a hop of 0.2 at 150.
    EXPECT_NEAR(layers->plan.time_s, 30 * 80 / 40.0 + 14.142 / 150 + 29 * 0.2 / 150, 0.02);
    EXPECT_GT(layers->time_motion_s, layers->plan.time_s);
}

TEST(Gcode, WhatLiesOnNothingIsFound) {
    // A tower, and from layer 11 a line of 8 beside it in the air.
    std::string text = square_tower(20, 10, 0.5);
    text += "G0 X30 Y0 Z2.2 F9000\nG1 X38 Y0 E0.3326 F2400\n";
    auto layers = read_layers(read(text));
    ASSERT_TRUE(layers);
    ASSERT_EQ(layers->plan.islands.size(), 1u);
    const Island& island = layers->plan.islands[0];
    EXPECT_EQ(island.layer, 10u);
    EXPECT_NEAR(island.z_mm, 2.0, 1e-4) << "its underside";
    EXPECT_NEAR(island.at.x(), 34, 0.1);
    EXPECT_NEAR(island.at.y(), 0, 0.1);
    EXPECT_NEAR(island.area_mm2, 8 * 0.5 + pi / 4 * 0.25, 0.4);
    // Pauses by the controller's words.
    text = square_tower(20, 5, 0.5) + "M600\n" + "G0 Z1.2\nG1 X10 Y-10 E0.8 F2400\n";
    layers = read_layers(read(text));
    ASSERT_TRUE(layers);
    ASSERT_EQ(layers->pauses.size(), 1u);
    EXPECT_EQ(layers->pauses[0].layer, 5u);
    EXPECT_NEAR(layers->pauses[0].z_mm, 1.0, 1e-4);
}

TEST(Motion, TimesInClosedForm) {
    const MotionCard card; // 1000 mm/s2
    // 100 mm at 50 from rest to rest: l / v + v / a. 1 mm never gets there: 2 sqrt(l / a).
    EXPECT_NEAR(path_time({{0, 0, 0}, {100, 0, 0}}, {50}), 2.05, 1e-6);
    EXPECT_NEAR(path_time({{0, 0, 0}, {1, 0, 0}}, {50}), 2 * std::sqrt(1.0 / 1000), 1e-6);
    // In pieces it takes as long; a corner of 90 degrees is passed at sqrt(a d s / (1 - s)).
    std::vector<Vec3> line;
    for (int i = 0; i <= 1000; ++i) line.push_back({i * 0.1, 0, 0});
    EXPECT_NEAR(path_time(line, std::vector<double>(1000, 50)), 2.05, 1e-3);
    const double s = std::sqrt(0.5);
    EXPECT_NEAR(std::sqrt(corner_speed2(0, card, 100)), std::sqrt(1000 * 0.02 * s / (1 - s)), 1e-9);
    EXPECT_NEAR(corner_speed2(-1, card, 100), 0, 1e-6) << "it stops to go back";
    // There and back: twice from rest to rest.
    EXPECT_NEAR(path_time({{0, 0, 0}, {100, 0, 0}, {0, 0, 0}}, {50, 50}), 4.1, 1e-6);
    // A fine circle is held by its own radius: v^2 = a r.
    std::vector<Vec3> circle;
    for (int i = 0; i <= 72; ++i) circle.push_back({10 * std::cos(2 * pi * i / 72), 10 * std::sin(2 * pi * i / 72), 0});
    EXPECT_NEAR(path_time(circle, std::vector<double>(72, 60)), 2 * pi * 10 / 60 + 0.06, 0.01);
    EXPECT_EQ(path_time({}, {}), 0);
}

TEST(Gcode, HostileFilesAreRefusedInWords) {
    const std::string vast = std::string(307, '9');
    EXPECT_NE(refusal("").find("empty"), std::string::npos);
    EXPECT_NE(refusal("solid cube\nfacet normal\n").find("no G-code"), std::string::npos);
    EXPECT_NE(refusal(std::string("G1 X1 E1\n\0\1\2\3", 14)).find("Line 2"), std::string::npos);
    EXPECT_NE(refusal("G1 X" + std::string(400, '9') + " E1\n").find("too large"), std::string::npos);
    EXPECT_NE(refusal("G1 X100000000 E1\n").find("100 m"), std::string::npos);
    EXPECT_NE(refusal("G2 X5 Y5 E1\n").find("without a centre"), std::string::npos);
    EXPECT_NE(refusal("G2 X500 Y5 R1 E1\n").find("does not reach"), std::string::npos);
    EXPECT_NE(refusal("G2 X500 Y5 I1 J0 E1\n").find("its circle"), std::string::npos);
    EXPECT_NE(refusal("G2 X1 J" + std::string(60, '6') + " E1\n").find("radius"), std::string::npos);
    EXPECT_NE(refusal("G2 X1 J66666666666 E1\n").find("100 m"), std::string::npos);
    EXPECT_NE(refusal("G20\nG2 X1 J" + vast + "0 E1\n"), "");
    EXPECT_EQ(refusal("G1 X0.1 F60\nG3 X0.2 I0.05 J2000000 E1\n"), "") << "nearly straight, round a far centre";
    EXPECT_EQ(refusal("G1 X1 Enan\nG1 X2 E1 F60\n"), "") << "a word without a number is passed over";
    // A command whose number nobody has; a place that is no number after two too large ones.
    EXPECT_EQ(read("G2222222222 X4\nM9999999999 S1\nG1 X1 E1 F60\n").passed_over, 2u);
    EXPECT_NE(refusal("G20\nG92 X" + vast + "0\nG1 X" + vast + "0 E1 F60\n"), "");
    EXPECT_EQ(read("G4 S" + vast + " P-" + vast + "\nG1 X1 E1 F60\n").waits_s, 86400);
    // Cut off in a number: that line is not believed.
    EXPECT_EQ(read("G1 X1 E1 F60\nG1 X2 E2\nG1 X3").moves.size(), 2u);
    // Moves without filament are no print.
    EXPECT_FALSE(read_layers(read("G1 X1 F60\nG1 X2\n")));
    // An endless line, and endless lines that say nothing.
    EXPECT_FALSE(read_gcode(std::string(1 << 20, 'G')));
    EXPECT_FALSE(read_gcode(std::string(1 << 20, '\n')));
    Task task;
    task.cancel.cancel();
    EXPECT_FALSE(read_layers(read(square_tower(20, 30, 0.5)), {}, task));
}
