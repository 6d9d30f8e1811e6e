// The practice printer: what fuses by the arithmetic of gaps, sag by its parabola, growth by the card, walls that
// vanish, and a closed body whose volume is the sum of its layers.
#include "bed/stacked_mesh.h"
#include "layers/practice_print.h"
#include "layers/region_tools.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numbers>

using namespace lp;
using namespace lp::test;

namespace {

ClipperLib::Path circle(Vec2 middle, double radius, bool hole = false, int sides = 180) {
    ClipperLib::Path path;
    for (int i = 0; i < sides; ++i) {
        const double a = 2 * std::numbers::pi * i / sides;
        path.push_back(grid_place(middle + radius * Vec2(std::cos(a), std::sin(a))));
    }
    if (hole) std::reverse(path.begin(), path.end());
    return path;
}
ClipperLib::Path rectangle(double x0, double y0, double x1, double y1) {
    return {grid_place({x0, y0}), grid_place({x1, y0}), grid_place({x1, y1}), grid_place({x0, y1})};
}
TriMesh prism(const Region& region, double low, double high) {
    return stacked_mesh({region}, {low, high});
}
/// A plate with holes and a peg of 8 in each, the gaps a side as told.
std::vector<TriMesh> pegs(const std::vector<double>& gaps, double high = 1) {
    Region plate{rectangle(0, 0, 14, 13.0 * double(gaps.size()))};
    std::vector<TriMesh> bodies(1);
    for (size_t i = 0; i < gaps.size(); ++i) {
        const Vec2 middle(7, 6.5 + 13.0 * double(i));
        plate.push_back(circle(middle, 4 + gaps[i], true));
        bodies.push_back(prism({circle(middle, 4)}, 0, high));
    }
    bodies[0] = prism(plate, 0, high);
    return bodies;
}
PracticePrint print(const std::vector<TriMesh>& bodies, const PrinterCard& card = {}) {
    auto print = practice_print(bodies, {}, practice_options(card));
    EXPECT_TRUE(print) << (print ? "" : print.error().text());
    return print.value_or(PracticePrint{});
}
/// Gaps that fuse in a layer, from 1.
std::vector<double> fused_in(const PracticePrint& print, const std::vector<double>& gaps, size_t layer) {
    std::vector<double> list;
    for (const FusedBodies& fused : print.fused)
        for (const auto& [first, last] : fused.layers)
            if (first <= layer && layer <= last) list.push_back(gaps[fused.b - 1]);
    return list;
}
/// The height of the roof over a place, looked at from below.
double underside(const TriMesh& mesh, double x, double y, double from) {
    const ClosestPoint hit = DistanceTree(mesh).first_hit({x, y, from}, Vec3::UnitZ());
    return hit.triangle == ~0u ? -1 : hit.point.z();
}

} // namespace

TEST(StackedMesh, IsClosedAndAsLargeAsItsSlabs) {
    const Region ring{circle({0, 0}, 10), circle({0, 0}, 6, true)}, square{rectangle(-9, -9, 3, 8)},
        apart{rectangle(20, 0, 24, 4), circle({30, 0}, 3)};
    const std::vector<Region> slabs{ring, ring, square, apart, {}, ring};
    const std::vector<double> z{0, 0.2, 0.5, 1, 1.5, 2, 2.5};
    const TriMesh mesh = stacked_mesh(slabs, z);
    double sum = 0;
    for (size_t k = 0; k < slabs.size(); ++k) sum += region_area_mm2(slabs[k]) * (z[k + 1] - z[k]);
    EXPECT_TRUE(is_closed(mesh));
    EXPECT_NEAR(mass_properties(mesh).volume_mm3, sum, 1e-4);
    const Soundness sound = check_soundness(mesh);
    EXPECT_TRUE(sound.closed);
    ASSERT_TRUE(sound.self_intersecting);
    EXPECT_EQ(sound.self_intersecting->count, 0u);
    EXPECT_TRUE(stacked_mesh({}, {}).empty());
    EXPECT_TRUE(stacked_mesh({{}, {}}, {0, 1, 2}).empty());
}

TEST(Practice, PegsFuseByTheArithmeticOfGaps) {
    // growth 0.1 + shrink 0.1: gaps below what is left closed fuse, to 2 micrometres (../shared/design/practice.md).
    const std::vector<double> gaps{0.10, 0.19, 0.198, 0.202, 0.22, 0.248, 0.252, 0.30};
    PrinterCard card;
    card.first_layer_flare_mm = 0.1;
    card.smallest_open_gap_mm = 0.2;
    EXPECT_EQ(fused_in(print(pegs(gaps), card), gaps, 3), (std::vector<double>{0.10, 0.19, 0.198}));
    card.smallest_open_gap_mm = 0.25;
    EXPECT_EQ(fused_in(print(pegs(gaps), card), gaps, 3), (std::vector<double>{0.10, 0.19, 0.198, 0.202, 0.22, 0.248}));
}

TEST(Practice, TheFlareFusesTheFirstLayerAndLessGrowthFreesAStep) {
    const std::vector<double> gaps{0.1, 0.2, 0.3, 0.4, 0.5};
    const PracticePrint usual = print(pegs(gaps));
    EXPECT_EQ(fused_in(usual, gaps, 1), (std::vector<double>{0.1, 0.2, 0.3, 0.4})) << "a flare of 0.2 a side";
    EXPECT_EQ(fused_in(usual, gaps, 3), (std::vector<double>{0.1, 0.2}));
    PrinterCard slim;
    slim.outside_growth_mm = slim.hole_shrink_mm = 0.05;
    EXPECT_EQ(fused_in(print(pegs(gaps), slim), gaps, 3), (std::vector<double>{0.1}));
}

TEST(Practice, ACubeGrowsByTheCard) {
    PrinterCard card;
    const PracticePrint result = print({cube(20)}, card);
    EXPECT_TRUE(is_closed(result.mesh));
    const Box3 box = bounding_box(result.mesh);
    EXPECT_NEAR(box.sizes().x(), 20.4, 0.02) << "the first layer stands out by the flare";
    EXPECT_NEAR(box.sizes().z(), 20, 1e-6);
    // 99 layers of 20.2 and one of 20.4 with rounded corners: four corners of radius r lose (4 - pi) r^2.
    const double corner = 4 - std::numbers::pi, r = 0.45 / 2 + 0.1, r1 = 0.45 / 2 + 0.2,
                 wanted = 99 * 0.2 * (20.2 * 20.2 - corner * r * r) + 0.2 * (20.4 * 20.4 - corner * r1 * r1);
    EXPECT_NEAR(mass_properties(result.mesh).volume_mm3 / wanted, 1, 2e-3);
    EXPECT_NEAR(result.most_out_mm, 0.2, 0.02);
    EXPECT_GT(result.mean_mm, 0.05);
    EXPECT_LT(result.mean_mm, 0.1);
    EXPECT_TRUE(result.fused.empty());
    EXPECT_TRUE(result.droops.empty());
    EXPECT_EQ(result.layers, 100u);
    // A round hole of 10 shrinks by the card's table at its diameter.
    card.hole_shrinks = {{5, 0.3}, {15, 0.1}};
    const TriMesh plate = prism({rectangle(0, 0, 30, 30), circle({15, 15}, 5, true)}, 0, 2);
    const DistanceTree tree(print({plate}, card).mesh);
    EXPECT_NEAR(tree.first_hit({15, 15, 1.1}, Vec3::UnitX()).distance_mm, 5 - 0.2, 0.02);
}

TEST(Practice, ABridgeSagsByTheSquareOfItsSpan) {
    // Two posts 30 apart: sag in the middle h (span / limit)^2, the parabola of a strand under a constant pull.
    TriMesh bridge = prism({rectangle(0, 0, 10, 6), rectangle(40, 0, 50, 6)}, 0, 5);
    bridge = stacked_mesh({{rectangle(0, 0, 10, 6), rectangle(40, 0, 50, 6)}, {rectangle(0, 0, 50, 6)}}, {0, 5, 7});
    for (double limit : {20.0, 30.0}) {
        PrinterCard card;
        card.bridge_limit_mm = limit;
        const PracticePrint result = print({bridge}, card);
        const double sag = 0.2 * 30 * 30 / limit / limit;
        ASSERT_FALSE(result.droops.empty());
        EXPECT_NEAR(result.droops.front().droop_mm, sag, 0.05) << limit;
        EXPECT_NEAR(result.droops.front().span_mm, 30, 1) << limit;
        EXPECT_NEAR(underside(result.mesh, 25, 3, 1), 5 - sag, 0.06) << "to a slab, a quarter of a layer";
        EXPECT_TRUE(is_closed(result.mesh));
    }
    // Supports carry it, and are broken off.
    const TriMesh post = box_mesh({11, 0, 0}, {39, 6, 4.8});
    auto carried = practice_print({bridge}, post, practice_options({}));
    ASSERT_TRUE(carried);
    EXPECT_TRUE(carried->droops.empty());
    EXPECT_NEAR(underside(carried->mesh, 25, 3, 1), 5, 1e-6);
}

TEST(Practice, ThinWallsGrowAndThinnerOnesVanish) {
    const auto wall = [](double t) {
        return prism({rectangle(0, 0, 20, 20), ClipperLib::Path{grid_place({t, t}), grid_place({t, 20 - t}),
                                                                grid_place({20 - t, 20 - t}), grid_place({20 - t, t})}},
                     0, 2);
    };
    const PracticePrint thin = print({wall(0.35)});
    const double area = mass_properties(thin.mesh).volume_mm3 / 2;
    EXPECT_NEAR(area / (4 * (20 - 0.35)), 0.35 + 2 * 0.1, 0.03) << "one line, grown at both sides";
    const PracticePrint gone = print({wall(0.2)});
    EXPECT_TRUE(gone.mesh.empty());
    EXPECT_NEAR(gone.without_line_mm2 / 10, 20 * 20 - 19.6 * 19.6, 0.1);
    EXPECT_EQ(gone.thin_from_z_mm, 0);
}

TEST(Practice, DeviationKnowsInsideFromOutside) {
    const auto d = deviation_from(cube(10), {{5, 5, 12}, {5, 5, 9}, {12, 12, 5}, {10.5, 10.5, 10.5}, {9.5, 9.5, 9.5}});
    EXPECT_NEAR(d[0], 2, 1e-9);
    EXPECT_NEAR(d[1], -1, 1e-9);
    EXPECT_NEAR(d[2], std::sqrt(8.0), 1e-9);
    EXPECT_NEAR(d[3], std::sqrt(0.75), 1e-9);
    EXPECT_NEAR(d[4], -0.5, 1e-9);
}

TEST(Practice, RefusesInWords) {
    EXPECT_EQ(practice_print({}, {}, practice_options({})).error().sentence, "There is nothing to print.");
    PrinterCard thin;
    thin.layer_height_mm = 0.0001;
    EXPECT_FALSE(practice_print({cube(10)}, {}, practice_options(thin)));
    EXPECT_FALSE(practice_print({cube(10000)}, {}, practice_options({}))) << "50,000 layers";
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_EQ(practice_print({cube(10)}, {}, practice_options({}), stopped).error().code, ProblemCode::Cancelled);
    EXPECT_GT(practice_assumptions({}).size(), 5u);
}
