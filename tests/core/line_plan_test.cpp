// The lines of layers: their volume against the layers' areas, nothing outside the part, thin walls, bridges, infill;
// and their time against motion in closed form.
#include "layers/hatching.h"
#include "layers/line_plan.h"
#include "layers/line_time.h"
#include "layers/region_tools.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numbers>
#include <tbb/global_control.h>

using namespace lp;
using namespace lp::test;

namespace {

Region rectangle(double x0, double y0, double x1, double y1) {
    return {{grid_place({x0, y0}), grid_place({x1, y0}), grid_place({x1, y1}), grid_place({x0, y1})}};
}
Region disc(Vec2 middle, double radius, int sides = 180) {
    Region region(1);
    for (int i = 0; i < sides; ++i) {
        const double a = 2 * std::numbers::pi * i / sides;
        region[0].push_back(grid_place(middle + radius * Vec2(std::cos(a), std::sin(a))));
    }
    return region;
}
Region frame(double outer, double wall) {
    return subtract_regions(rectangle(0, 0, outer, outer), rectangle(wall, wall, outer - wall, outer - wall));
}
std::vector<LayerLines> plan(const std::vector<Region>& layers, const LineOptions& options = {}) {
    auto lines = plan_lines(layers, options);
    EXPECT_TRUE(lines);
    return lines.value_or(std::vector<LayerLines>{});
}
/// What the lines of a layer sweep as wide as they are.
Region swept(const LayerLines& layer) {
    ClipperLib::Clipper clipper;
    for (const PlannedLine& line : layer.lines) {
        ClipperLib::Path path;
        for (uint32_t i = 0; i < line.count; ++i) path.push_back(grid_place(layer.places[line.first + i]));
        ClipperLib::ClipperOffset offset(2, 400);
        offset.AddPath(path, ClipperLib::jtRound, line.closed ? ClipperLib::etClosedLine : ClipperLib::etOpenRound);
        Region bead;
        offset.Execute(bead, double(line.width_mm) / 2 * clipper_grid);
        clipper.AddPaths(bead, ClipperLib::ptSubject, true);
    }
    Region all;
    clipper.Execute(ClipperLib::ctUnion, all, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    return all;
}
double volume_of(const LayerLines& layer, LineKind kind) {
    double volume = 0;
    for (const PlannedLine& line : layer.lines)
        if (line.kind == kind) volume += layer.length_mm(line) * double(line.width_mm) * double(line.height_mm);
    return volume;
}
size_t count_of(const LayerLines& layer, LineKind kind) {
    return size_t(std::count_if(layer.lines.begin(), layer.lines.end(), [&](auto& line) { return line.kind == kind; }));
}
/// One chain of one kind of lines, alone in its layer, without what comes before the first layer.
double seconds(const std::vector<Vec2>& places, double speed, LineTimeCard card = {}) {
    LayerLines layer;
    layer.places = places;
    layer.lines.push_back({0, uint32_t(places.size()), 0.45f, 0.2f, float(speed), LineKind::InnerWall, false, false});
    card.least_layer_s = 0;
    return line_times({layer}, card).laying_s;
}

} // namespace

TEST(LinePlan, WhatIsFilledWholeIsFilledByItsArea) {
    // Volume of lines against area x height, for shapes whose areas are known: within 2 % (../shared/design/layers.md
    // found -1.0 to +0.6).
    LineOptions options;
    options.infill_percent = 100;
    const std::pair<Region, double> shapes[] = {{rectangle(0, 0, 30, 20), 600},
                                                {disc({10, 10}, 12), std::numbers::pi * 144},
                                                {frame(30, 4), 30 * 30 - 22 * 22},
                                                {rectangle(0, 0, 40, 3.1), 124}};
    for (const auto& [shape, area] : shapes) {
        const auto layers = plan({shape, shape, shape}, options);
        EXPECT_NEAR(layers[1].volume_mm3() / (area * 0.2), 1, 0.02) << area;
        const Region outside = subtract_regions(swept(layers[1]), offset_region(shape, 0.01));
        EXPECT_LT(region_area_mm2(outside) / area, 0.004) << area;
        EXPECT_LT(region_area_mm2(subtract_regions(shape, swept(layers[1]))) / area, 0.02) << area;
    }
}

TEST(LinePlan, InfillLaysItsShare) {
    // Far from the skins: sparse lines over the area inside three walls.
    const Region square = rectangle(0, 0, 60, 60);
    const std::vector<Region> tower(11, square);
    const double inside = std::pow(60 - 2 * 3 * 0.45, 2) * 0.2;
    for (Infill pattern : {Infill::Lines, Infill::Grid, Infill::Gyroid})
        for (double percent : {5.0, 15.0, 40.0}) {
            LineOptions options;
            options.infill = pattern;
            options.infill_percent = percent;
            double laid = 0;
            const auto layers = plan(tower, options);
            for (size_t k = 4; k < 7; ++k) laid += volume_of(layers[k], LineKind::Sparse) / 3;
            EXPECT_NEAR(laid / inside, percent / 100, 0.12 * percent / 100) << int(pattern) << " " << percent;
            EXPECT_EQ(count_of(layers[0], LineKind::Sparse), 0u) << "the bottom is solid";
            EXPECT_EQ(count_of(layers[10], LineKind::Sparse), 0u) << "so is the top";
        }
    LineOptions hollow;
    hollow.infill_percent = 0;
    EXPECT_EQ(count_of(plan(tower, hollow)[5], LineKind::Sparse), 0u);
}

TEST(LinePlan, ThinWallsGetLinesOfTheirOwnWidth) {
    // One wall of 0.35: a single line round, as wide as the wall. Of 0.9: two passes that share it. Of 0.2: nothing.
    for (const auto& [wall, lines_over] : {std::pair{0.35, 1.0}, {0.6, 1.0}, {0.9, 2.0}, {1.2, 3.0}}) {
        const Region shape = frame(30, wall);
        const auto layer = plan({shape, shape})[1];
        const double area = region_area_mm2(shape), middle = 4 * (30 - wall);
        EXPECT_NEAR(layer.volume_mm3() / 0.2 / area, 1, 0.05) << wall;
        double length = 0;
        for (const PlannedLine& line : layer.lines) length += layer.length_mm(line);
        EXPECT_NEAR(length / middle, lines_over, 0.25) << wall;
        EXPECT_LT(region_area_mm2(subtract_regions(swept(layer), offset_region(shape, 0.05))), 0.02 * area) << wall;
    }
    EXPECT_TRUE(plan({frame(30, 0.2)})[0].lines.empty());
}

TEST(LinePlan, BridgesRunWhereTheyAreHeld) {
    // Two posts 20 apart with a plate over them: lines across, from post to post.
    const Region posts = unite_regions(rectangle(0, 0, 8, 12), rectangle(28, 0, 36, 12)),
                 plate = rectangle(0, 0, 36, 12);
    const BridgeDirection direction = best_bridge(rectangle(8, 0, 28, 12), posts, 0.45);
    EXPECT_NEAR(std::fabs(std::sin(direction.angle_rad)), 0, 1e-9);
    EXPECT_NEAR(direction.longest_mm, 20, 0.01);
    EXPECT_LT(direction.loose_share, 0.01);
    EXPECT_GT(best_bridge(rectangle(8, 0, 28, 12), rectangle(0, 0, 8, 12), 0.45).loose_share, 0.99)
        << "held at one side";
    const auto layers = plan({posts, posts, plate, plate});
    EXPECT_GT(count_of(layers[2], LineKind::Bridge), 0u);
    EXPECT_EQ(count_of(layers[3], LineKind::Bridge), 0u);
    for (const PlannedLine& line : layers[2].lines)
        if (line.kind == LineKind::Bridge) {
            EXPECT_NEAR(double(line.speed_mm_s), 25, 1e-6);
        }
}

TEST(LinePlan, SolidPlacesSupportsAndThreads) {
    const Region square = rectangle(0, 0, 40, 40), boss = disc({20, 20}, 6);
    const std::vector<Region> tower(11, square), bosses(11, boss);
    auto filled = plan_lines(tower, {}, {}, bosses);
    ASSERT_TRUE(filled);
    const LayerLines plain = plan(tower)[5];
    // The boss and half a line round it, whole instead of sparse: the closed formula of its disc.
    const double more = filled->at(5).volume_mm3() - plain.volume_mm3(),
                 disc_mm2 = std::numbers::pi * 6.45 * 6.45 * (1 - 0.15);
    EXPECT_NEAR(more / 0.2 / disc_mm2, 1, 0.1);
    auto carried = plan_lines({square}, {}, {rectangle(50, 0, 60, 10)});
    ASSERT_TRUE(carried);
    EXPECT_GT(count_of(carried->at(0), LineKind::Support), 3u);
    tbb::global_control one(tbb::global_control::max_allowed_parallelism, 1);
    auto alone = plan_lines(tower, {}, {}, bosses);
    ASSERT_TRUE(alone);
    for (size_t k = 0; k < tower.size(); ++k) EXPECT_EQ(alone->at(k).places, filled->at(k).places) << k;
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(plan_lines(tower, {}, {}, {}, stopped));
    EXPECT_TRUE(plan({}).empty());
    EXPECT_TRUE(plan({Region{}})[0].lines.empty());
}

TEST(LineTime, MotionInClosedForm) {
    // Start and stop at 1000 mm/s2: l / v + v / a, and 2 sqrt(l / a) where the speed is never reached.
    EXPECT_NEAR(seconds({{0, 0}, {100, 0}}, 50), 100.0 / 50 + 50.0 / 1000, 1e-4);
    EXPECT_NEAR(seconds({{0, 0}, {1, 0}}, 50), 2 * std::sqrt(1.0 / 1000), 1e-4);
    std::vector<Vec2> pieces;
    for (int i = 0; i <= 1000; ++i) pieces.push_back({0.1 * i, 0});
    LineTimeCard quick;
    quick.motion.least_s = 0;
    EXPECT_NEAR(seconds(pieces, 50, quick), 2.05, 1e-3) << "straight on is one way";
    // A square corner is passed at sqrt(2.414 a d): from rest to 50, down to it, up again, to rest.
    const double corner = std::sqrt(2.414 * 1000 * 0.02), v = 50, a = 1000,
                 leg = (2 * v - corner) / a + (100 - (2 * v * v - corner * corner) / (2 * a)) / v;
    EXPECT_NEAR(seconds({{0, 0}, {100, 0}, {100, 100}}, 50), 2 * leg, 1e-3);
}

TEST(LineTime, SmallLayersAreHeldBackAndKindsAddUp) {
    const std::vector<Region> pin(10, disc({0, 0}, 2)), block(10, rectangle(0, 0, 60, 60));
    const LineTimes small = line_times(plan(pin)), large = line_times(plan(block));
    EXPECT_GT(small.cooling_s, 10) << "each of ten layers is stretched";
    EXPECT_EQ(large.cooling_s, 0);
    double kinds = 0;
    for (double s : large.by_kind_s) kinds += s;
    EXPECT_NEAR(kinds, large.laying_s, 1e-6);
    EXPECT_GT(large.hops, 10u);
    EXPECT_NEAR(large.changes_s, 10 * 0.35, 1e-9);
    LineTimeCard brisk;
    brisk.motion.acceleration = brisk.outer_acceleration = 1e6;
    EXPECT_LT(line_times(plan(block), brisk).laying_s, large.laying_s);
}
