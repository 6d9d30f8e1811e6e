// Beds: nothing overlaps (by exact distances between the meshes), nothing stands past the border, as few as area
// allows.
#include "bed/arrange.h"
#include "bed/bitmap.h"
#include "mesh/combine.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <random>

using namespace lp;

namespace {

Arranged arranged(const std::vector<ArrangeItem>& items, const ArrangeOptions& options = {}) {
    auto found = arrange(items, options);
    EXPECT_TRUE(found) << (found ? "" : found.error().text());
    return found ? *found : Arranged{};
}

/// Judged by the triangles themselves, and by the exact distance between them.
void expect_sound(const std::vector<ArrangeItem>& items, const Arranged& found, const ArrangeOptions& options) {
    std::vector<TriMesh> placed;
    for (size_t i = 0; i < items.size(); ++i) {
        placed.emplace_back();
        if (!found.spots[i]) continue;
        ASSERT_LT(found.spots[i]->bed, found.beds);
        placed.back() = transformed(*items[i].posed, placed_at(*items[i].posed, *found.spots[i]));
        const Box3 box = bounding_box(placed.back());
        EXPECT_NEAR(box.min().z(), 0, 1e-9);
        EXPECT_LT((box.center().head<2>() - found.spots[i]->at).norm(), 1e-6);
        if (items[i].locked) continue;
        for (int axis : {0, 1}) {
            EXPECT_GE(box.min()[axis], items[i].brim_mm - 1e-3) << i;
            EXPECT_LE(box.max()[axis], options.bed_mm[axis] - items[i].brim_mm + 1e-3) << i;
        }
    }
    for (size_t i = 0; i < items.size(); ++i)
        for (size_t j = i + 1; j < items.size(); ++j) {
            if (!found.spots[i] || !found.spots[j] || found.spots[i]->bed != found.spots[j]->bed) continue;
            EXPECT_EQ(items[i].group, items[j].group) << i << " " << j;
            const double apart = closest_pair(DistanceTree(placed[i]), DistanceTree(placed[j])).distance_mm;
            EXPECT_GE(apart, options.spacing_mm + items[i].brim_mm + items[j].brim_mm - 1e-3) << i << " and " << j;
        }
}

/// An L of two bars, as high as asked.
TriMesh angle_piece(double length, double bar, double height) {
    auto made = combine_meshes(
        Operation::Join, {box_mesh({0, 0, 0}, {length, bar, height}), box_mesh({0, 0, 0}, {bar, length, height})});
    EXPECT_TRUE(made);
    return made ? *made : TriMesh{};
}

} // namespace

TEST(Arrange, SquaresThatFillABedFillIt) {
    // Nine of 70 with 3 between: 216 of 220. Two beds would be one too many; ten need two.
    const TriMesh tile = box_mesh({100, -40, 7}, {170, 30, 10});
    std::vector<ArrangeItem> items(9, {.posed = &tile});
    Arranged found = arranged(items);
    EXPECT_EQ(found.beds, 1u);
    EXPECT_NEAR(found.used_share.at(0), 9 * 70.0 * 70 / (220.0 * 220), 0.01);
    expect_sound(items, found, {});
    items.push_back({.posed = &tile});
    found = arranged(items);
    EXPECT_EQ(found.beds, 2u);
    expect_sound(items, found, {});
}

TEST(Arrange, WhatIsLongerThanTheBedGoesAcrossIt) {
    // 290 fits a bed of 220 only across: its diagonal is 311.
    const TriMesh stake = box_mesh({0, 0, 0}, {280, 10, 4}), beam = box_mesh({0, 0, 0}, {320, 10, 4});
    const std::vector<ArrangeItem> items{{.posed = &stake}, {.posed = &beam}, {.posed = &stake}};
    const Arranged found = arranged(items);
    ASSERT_TRUE(found.spots[0]);
    EXPECT_NEAR(std::fmod(found.spots[0]->turn_deg, 90), 45, 1e-9);
    EXPECT_FALSE(found.spots[1]) << "left out, and said";
    expect_sound(items, found, {});
    ArrangeOptions as_it_is;
    as_it_is.turning = false;
    EXPECT_FALSE(arranged(items, as_it_is).spots[0]);
}

TEST(Arrange, AnglesNestAndThingsStandInRings) {
    // Four boxes of 100 fill the bed; of angles it takes eight, one within the other.
    const TriMesh angle = angle_piece(100, 12, 5);
    std::vector<ArrangeItem> items(8, {.posed = &angle});
    Arranged found = arranged(items);
    EXPECT_EQ(found.beds, 1u);
    expect_sound(items, found, {});
    auto frame =
        combine_meshes(Operation::Cut, {box_mesh({0, 0, 0}, {200, 200, 5}), box_mesh({20, 20, -1}, {180, 180, 6})});
    ASSERT_TRUE(frame);
    const TriMesh block = test::cube(60);
    items.assign(4, {.posed = &block});
    items.push_back({.posed = &*frame});
    found = arranged(items);
    EXPECT_EQ(found.beds, 1u) << "all four within the frame";
    expect_sound(items, found, {});
}

TEST(Arrange, ColoursKeepToTheirBedsAndLockedThingsStay) {
    const TriMesh plate = box_mesh({0, 0, 0}, {60, 40, 3}), disc = test::sphere(20, 12);
    std::vector<ArrangeItem> items;
    for (int i = 0; i < 12; ++i)
        items.push_back({.posed = i % 2 ? &plate : &disc,
                         .group = i % 3 == 0   ? "green"
                                  : i % 3 == 1 ? "clay"
                                               : "slate"});
    items[4].locked = BedSpot{1, {60, 70}, 30};
    const Arranged found = arranged(items);
    EXPECT_EQ(found.beds, 3u);
    ASSERT_TRUE(found.spots[4]);
    EXPECT_EQ(*found.spots[4], *items[4].locked);
    for (int i = 1; i < 12; i += 3) EXPECT_EQ(found.spots[size_t(i)]->bed, 1u) << "round the locked one of its colour";
    expect_sound(items, found, {});
}

TEST(Arrange, BrimsCountAndRandomKitsAreSound) {
    std::mt19937 random(7);
    std::uniform_real_distribution<double> side(8, 70), turn(0, 360);
    std::vector<TriMesh> meshes;
    for (int i = 0; i < 24; ++i)
        meshes.push_back(i % 4 == 0   ? angle_piece(side(random) + 10, 6, 8)
                         : i % 4 == 1 ? test::turned(box_mesh({0, 0, 0}, {side(random), side(random), 9}), turn(random),
                                                     Vec3::UnitZ())
                         : i % 4 == 2 ? test::sphere(side(random) / 3, 14)
                                      : test::torus(side(random) / 2 + 8, 5, 24, 10));
    std::vector<ArrangeItem> items;
    for (size_t i = 0; i < meshes.size(); ++i)
        items.push_back({.posed = &meshes[i], .brim_mm = i % 5 == 0 ? 6.0 : 0.0});
    for (double spacing : {0.0, 2.0, 7.5}) {
        ArrangeOptions options;
        options.spacing_mm = spacing;
        options.bed_mm = {180, 150};
        const Arranged found = arranged(items, options);
        for (size_t i = 0; i < items.size(); ++i) EXPECT_TRUE(found.spots[i]) << i;
        expect_sound(items, found, options);
        EXPECT_EQ(arranged(items, options).spots, found.spots) << "the same every time";
    }
}

TEST(Arrange, NonsenseIsRefusedAndStopIsHeard) {
    const TriMesh tile = test::cube(10);
    EXPECT_FALSE(arrange({{.posed = &tile}}, {.bed_mm = {0, 220}}));
    EXPECT_FALSE(arrange({{.posed = &tile}}, {.bed_mm = {std::nan(""), 220}}));
    EXPECT_FALSE(arrange({{.posed = &tile}}, {.spacing_mm = -1}));
    EXPECT_FALSE(arrange({{.posed = &tile, .brim_mm = 1e9}}, {}));
    EXPECT_EQ(arranged({}).beds, 0u);
    Task task;
    task.cancel.cancel();
    auto stopped = arrange({{.posed = &tile}}, {}, task);
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
}

TEST(Bitmap, ShapesAsSquaresAgainstAPlainCount) {
    std::mt19937 random(3);
    Bitmap one(150, 40), sum(200, 60);
    std::vector<std::vector<char>> plain(60, std::vector<char>(200, 0));
    for (int k = 0; k < 60; ++k) {
        const int y = int(random() % 40), x0 = int(random() % 150), x1 = x0 + int(random() % 30);
        one.fill(y, x0, x1);
    }
    for (auto [dx, dy] : {std::pair(0, 0), {63, 5}, {-70, -8}, {64, 31}, {-1, 50}}) {
        sum.add(one, dx, dy);
        for (int y = 0; y < 40; ++y)
            for (int x = 0; x < 150; ++x)
                if (one.get(x, y) && x + dx >= 0 && x + dx < 200 && y + dy >= 0 && y + dy < 60)
                    plain[size_t(y + dy)][size_t(x + dx)] = 1;
    }
    size_t count = 0;
    for (int y = 0; y < 60; ++y)
        for (int x = 0; x < 200; ++x) {
            EXPECT_EQ(sum.get(x, y), bool(plain[size_t(y)][size_t(x)])) << x << " " << y;
            count += size_t(plain[size_t(y)][size_t(x)]);
        }
    EXPECT_EQ(sum.count(), count);
    // The first free place, by trying all.
    Bitmap piece(23, 9);
    for (int y = 0; y < 9; ++y) piece.fill(y, y % 3, 20 - y);
    std::optional<std::pair<int, int>> first;
    for (int y = 0; y + 9 <= 60 && !first; ++y)
        for (int x = 0; x + 23 <= 200 && !first; ++x) {
            bool free = true;
            for (int j = 0; j < 9 && free; ++j)
                for (int i = 0; i < 23 && free; ++i) free = !(piece.get(i, j) && sum.get(x + i, y + j));
            if (free) first = {x, y};
        }
    auto found = FreePlaces(sum).first_for(piece);
    ASSERT_EQ(found.has_value(), first.has_value());
    if (found) {
        EXPECT_EQ(std::pair(found->x, found->y), *first);
    }
}
