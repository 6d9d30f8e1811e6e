// What of a part's lines lies on nothing: spans of bridges and lips as they are drawn, and nothing where all is
// carried.
#include "bed/brim.h"
#include "layers/motion_times.h"
#include "layers/part_lines.h"
#include "mesh/combine.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;
using namespace lp::test;

namespace {

TriMesh joined(const std::vector<TriMesh>& boxes) {
    auto made = combine_meshes(Operation::Join, boxes);
    EXPECT_TRUE(made);
    return made ? *made : TriMesh{};
}
/// Two posts of 10 x 10, `apart`, under a slab.
TriMesh gate(double apart) {
    return joined({box_mesh({0, 0, 0}, {10, 10, 11}), box_mesh({10 + apart, 0, 0}, {20 + apart, 10, 11}),
                   box_mesh({0, 0, 10}, {20 + apart, 10, 13})});
}
PartLines lines_of(const TriMesh& mesh, const TriMesh& supports = {}) {
    auto lines = part_lines(mesh, supports, {});
    EXPECT_TRUE(lines) << (lines ? "" : lines.error().text());
    return lines.value_or(PartLines{});
}
double longest(const std::vector<LooseRun>& runs, bool bridges) {
    double most = 0;
    for (const LooseRun& run : runs)
        if (run.bridges == bridges) most = std::max(most, run.length_mm);
    return most;
}

} // namespace

TEST(PartLines, ABridgeIsAsLongAsItSpans) {
    for (double apart : {8.0, 24.0}) {
        const PartLines lines = lines_of(gate(apart));
        ASSERT_EQ(lines.layers.size(), 65u);
        for (size_t k = 0; k < lines.layers.size(); ++k)
            if (k != 50) {
                EXPECT_TRUE(lines.loose[k].empty()) << "layer " << k << " lies on the one below";
            }
        ASSERT_FALSE(lines.loose[50].empty());
        EXPECT_NEAR(longest(lines.loose[50], true), apart - 2 * 0.2, 0.5) << "a layer's width beyond each post carries";
        for (const LooseRun& run : lines.loose[50]) {
            ASSERT_GT(run.path.size(), 1u);
            for (const Vec2& p : run.path) {
                EXPECT_GT(p.x(), 10);
                EXPECT_LT(p.x(), 10 + apart);
            }
        }
    }
}

TEST(PartLines, ALipHangsAndSupportsCarryIt) {
    const TriMesh lip = joined({box_mesh({0, 0, 0}, {10, 10, 11}), box_mesh({0, 0, 10}, {25, 10, 12})});
    const PartLines bare = lines_of(lip);
    EXPECT_GT(longest(bare.loose[50], false), 14);
    const PartLines carried = lines_of(lip, box_mesh({11, 0, 0}, {25, 10, 9.8}));
    EXPECT_TRUE(carried.loose[50].empty());
    // A wall at the limit of 45 degrees rests on the layer below.
    TriMesh leaning = box_mesh({0, 0, 0}, {10, 10, 10});
    for (Vec3& v : leaning.vertices) v.x() += v.z();
    const PartLines rests = lines_of(leaning);
    for (const auto& runs : rests.loose) EXPECT_TRUE(runs.empty());
}

TEST(PartLines, AreTheLinesThatAreTimedAndRefusedInWords) {
    const PartLines lines = lines_of(cube(20));
    EXPECT_EQ(lines.layers.size(), 100u);
    auto times = motion_times(cube(20), {}, {});
    ASSERT_TRUE(times);
    EXPECT_NEAR(line_times(lines.layers).total_s(), times->total_s(), 1e-9);
    double volume = 0;
    LayerOptions solid;
    solid.infill_percent = 100;
    const auto filled = part_lines(cube(20), {}, solid);
    for (const LayerLines& layer : filled->layers) volume += layer.volume_mm3();
    EXPECT_NEAR(volume, 8000, 8000 * 0.02);
    EXPECT_FALSE(part_lines({}, {}, {}));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(part_lines(cube(20), {}, {}, stopped));
}

TEST(PartLines, ABrimIsLaidFirstLineBesideLine) {
    const TriMesh box = box_mesh({0, 0, 0}, {20, 20, 4});
    Brim wanted;
    wanted.width_mm = 5;
    const TriMesh brim = make_brim(box, wanted, 0.2);
    ASSERT_FALSE(brim.empty());
    auto with = part_lines(box, {}, {}, {}, brim);
    ASSERT_TRUE(with) << with.error().text();
    const PartLines bare = lines_of(box);
    ASSERT_EQ(with->layers.size(), bare.layers.size());
    for (size_t k = 1; k < bare.layers.size(); ++k)
        EXPECT_EQ(with->layers[k].lines.size(), bare.layers[k].lines.size()) << "one layer high";
    const LayerLines& first = with->layers[0];
    ASSERT_FALSE(first.lines.empty());
    EXPECT_EQ(first.lines.front().kind, LineKind::Support) << "before the part";
    double brim_mm3 = 0, part_mm3 = 0, outermost = 0;
    for (const PlannedLine& line : first.lines) {
        const bool of_brim = line.kind == LineKind::Support;
        (of_brim ? brim_mm3 : part_mm3) += first.length_mm(line) * double(line.width_mm) * double(line.height_mm);
        for (uint32_t i = 0; of_brim && i < line.count; ++i)
            outermost = std::max(outermost, first.places[line.first + i].x() + double(line.width_mm) / 2);
    }
    // As much plastic as the brim's own body holds; nothing beyond its border.
    EXPECT_NEAR(brim_mm3, mass_properties(brim).volume_mm3, 0.03 * brim_mm3);
    EXPECT_NEAR(part_mm3, bare.layers[0].volume_mm3(), 1e-9);
    EXPECT_LE(outermost, bounding_box(brim).max().x() + 0.01);
    EXPECT_GT(outermost, bounding_box(brim).max().x() - 0.1);
}
