// The practice plan as G-code: read back it lays the same filament in the same layers and takes the time of the motion;
// the plan of a file made elsewhere, line by line.
#include "layers/line_time.h"
#include "layers/read_layers.h"
#include "layers/read_lines.h"
#include "layers/write_gcode.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

PartLines lines_of(const TriMesh& mesh, const LayerOptions& options = {}) {
    auto lines = part_lines(mesh, {}, options);
    EXPECT_TRUE(lines) << (lines ? "" : lines.error().text());
    return lines.value_or(PartLines{});
}
PrintPlan read_back(const PartLines& lines, const GcodeOptions& options = {}) {
    auto text = write_gcode(lines, options);
    EXPECT_TRUE(text);
    auto plan = read_gcode(text.value_or(""));
    EXPECT_TRUE(plan) << (plan ? "" : plan.error().text());
    return plan.value_or(PrintPlan{});
}
double volume_of(const PartLines& lines) {
    double all = 0;
    for (const LayerLines& layer : lines.layers) all += layer.volume_mm3();
    return all;
}
TriMesh gate() {
    TriMesh mesh = box_mesh({0, 0, 0}, {10, 10, 10});
    append(mesh, box_mesh({34, 0, 0}, {44, 10, 10}));
    append(mesh, box_mesh({0, 0, 10}, {44, 10, 13}));
    return mesh;
}

} // namespace

TEST(WriteGcode, LaysTheSameWhenItIsReadBack) {
    for (Infill infill : {Infill::Lines, Infill::Grid, Infill::Gyroid}) {
        LayerOptions options;
        options.infill = infill;
        const PartLines lines = lines_of(cube(20), options);
        const PrintPlan plan = read_back(lines);
        const double section = pi / 4 * 1.75 * 1.75;
        EXPECT_NEAR(plan.filament_mm * section, volume_of(lines), 1e-3 * volume_of(lines));
        auto layers = read_layers(plan);
        ASSERT_TRUE(layers);
        ASSERT_EQ(layers->plan.layers.size(), lines.layers.size());
        EXPECT_NEAR(layers->plan.height_mm, 20, 1e-3);
        EXPECT_NEAR((layers->box.sizes() - Vec3(19.55, 19.55, 19.8)).norm(), 0, 1e-3)
            << "middles of the outermost lines";
        // The time of the lines, without what no file tells: cooling, changes of layers, heating; outer walls go at
        // their own acceleration there.
        const LineTimes times = line_times(lines.layers);
        const double told = times.laying_s + times.hops_s + times.drawing_back_s;
        EXPECT_NEAR(layers->time_motion_s, told, 0.12 * told);
    }
}

TEST(WriteGcode, SaysFirstThatItIsForNoMachine) {
    const auto text = write_gcode(lines_of(cube(4)), {"Peg (left)\nM104 S220; hot", 1.75, {}, {}});
    ASSERT_TRUE(text);
    EXPECT_NE(text->substr(0, 80).find("NOT FOR A MACHINE"), std::string::npos);
    // The first word of the file that is no comment stops it; no name gets out of its comment.
    std::istringstream in(*text);
    std::string line, first;
    while (std::getline(in, line)) {
        if (line.empty() || line[0] == ';') continue;
        if (first.empty()) first = line;
        EXPECT_NE(line.rfind("M104", 0), 0u);
    }
    EXPECT_EQ(first.rfind("M0", 0), 0u);
    EXPECT_EQ(text->find("S220; hot\nM"), std::string::npos);
    EXPECT_EQ(read_gcode(*text)->passed_over, 0u);
}

TEST(WriteGcode, StopsAndRafts) {
    LayerOptions options;
    options.raft_layers = 5;
    const PartLines lines = lines_of(cube(10), options);
    EXPECT_EQ(lines.raft, 5u);
    ASSERT_EQ(lines.layers.size(), 55u);
    EXPECT_NEAR(lines.bottom(0), -1.0, 1e-9);
    EXPECT_NEAR(lines.bottom(5), 0, 1e-9);
    EXPECT_NEAR(lines.bottom(6), 0.2, 1e-9);
    // The raft reaches 3 mm past the part; its top is closed, below it lie rows.
    double widest = 0;
    for (const Vec2& p : lines.layers[0].places) widest = std::max(widest, p.x());
    EXPECT_NEAR(widest, 10 + 3 - 0.225, 0.01);
    EXPECT_GT(lines.layers[4].volume_mm3(), 1.8 * lines.layers[2].volume_mm3());
    // Layer 36 of the part is the 41st (trade facts of the design notes: 41 - 5 = 36).
    const PrintPlan plan = read_back(lines, {"", 1.75, {}, {{40, "the nut goes in"}}});
    auto layers = read_layers(plan);
    ASSERT_TRUE(layers);
    ASSERT_EQ(layers->plan.layers.size(), 55u);
    ASSERT_EQ(layers->pauses.size(), 1u);
    EXPECT_EQ(layers->pauses[0].layer + 1, 41u);
    EXPECT_NEAR(layers->pauses[0].z_mm, 5 * 0.2 + 35 * 0.2, 1e-3);
}

TEST(WriteGcode, IsStoppedOnRequest) {
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(write_gcode(lines_of(cube(4)), {}, stopped));
    EXPECT_FALSE(read_lines(read_back(lines_of(cube(4))), {}, stopped));
}

TEST(ReadLines, AreAsWideAsTheyWereWrittenAndTellWhatHangs) {
    const PartLines ours = lines_of(gate());
    auto lines = read_lines(read_back(ours));
    ASSERT_TRUE(lines) << lines.error().text();
    ASSERT_EQ(lines->layers.size(), ours.layers.size());
    EXPECT_NEAR(volume_of(*lines), volume_of(ours), 2e-3 * volume_of(ours));
    EXPECT_NEAR(lines->bottom(50), 10, 1e-6);
    EXPECT_NEAR(lines->thickness(50), 0.2, 1e-6);
    for (const PlannedLine& line : lines->layers[20].lines) {
        EXPECT_NEAR(line.width_mm, 0.45f, 0.03f);
        EXPECT_EQ(line.kind, LineKind::Read);
    }
    // The lintel bridges 24 mm; nothing else hangs. The rows over the infill below do not count.
    double longest = 0;
    for (size_t k = 0; k < lines->loose.size(); ++k)
        for (const LooseRun& run : lines->loose[k]) {
            EXPECT_EQ(k, 50u);
            longest = std::max(longest, run.length_mm);
        }
    EXPECT_NEAR(longest, 24, 0.6);
}

TEST(ReadLines, RefusesWhatLaysNothing) {
    EXPECT_FALSE(read_lines(*read_gcode("G1 X5 Y5 F600\n")));
    EXPECT_FALSE(read_lines({}));
    const auto one = read_lines(*read_gcode("M83\nG1 Z0.2 F600\nG1 X5 E0.1\n"));
    ASSERT_TRUE(one);
    EXPECT_EQ(one->layers.size(), 1u);
}
