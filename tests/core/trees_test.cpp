// Branching supports against what they promise, by measures of their own: distances, slopes, closed shells.
#include "bed/support_figures.h"
#include "bed/tree_rules.h"
#include "bed/tree_tubes.h"
#include "bed/trees.h"
#include "check/overhang.h"
#include "mesh/flat_triangulation.h"
#include "mesh/soundness.h"
#include "mesh/topology.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>
#include <numeric>

using namespace lp;
using std::numbers::pi;

namespace {

/// Turned about z: radius and height from the axis to the axis, counter-clockwise.
TriMesh turned_part(const std::vector<Vec2>& profile, int n) {
    TriMesh mesh;
    std::vector<uint32_t> first;
    for (const Vec2& p : profile) {
        first.push_back(uint32_t(mesh.vertices.size()));
        for (int k = 0; k < (p.x() < 1e-9 ? 1 : n); ++k)
            mesh.vertices.push_back({p.x() * std::cos(2 * pi * k / n), p.x() * std::sin(2 * pi * k / n), p.y()});
    }
    for (size_t i = 0; i + 1 < profile.size(); ++i)
        for (int k = 0; k < n; ++k) {
            const bool tip_below = profile[i].x() < 1e-9, tip_above = profile[i + 1].x() < 1e-9;
            const auto a = uint32_t(first[i] + (tip_below ? 0 : uint32_t(k))),
                       b = uint32_t(first[i] + (tip_below ? 0 : uint32_t((k + 1) % n))),
                       c = uint32_t(first[i + 1] + (tip_above ? 0 : uint32_t(k))),
                       d = uint32_t(first[i + 1] + (tip_above ? 0 : uint32_t((k + 1) % n)));
            if (!tip_below) mesh.triangles.push_back({a, b, d});
            if (!tip_above) mesh.triangles.push_back({a, d, c});
        }
    return mesh;
}

/// A disc of 60 mm on a stem, its underside at 30 mm.
TriMesh roof() {
    return turned_part({{0, 0}, {6, 0}, {6, 30}, {30, 30}, {30, 34}, {0, 34}}, 96);
}
/// The same over a foot as wide.
TriMesh roof_over_foot() {
    return turned_part({{0, 0}, {36, 0}, {36, 3}, {6, 3}, {6, 30}, {30, 30}, {30, 34}, {0, 34}}, 96);
}
TriMesh lifted_ring() {
    TriMesh mesh = test::torus(25, 7, 160, 40);
    return test::moved_by(mesh, Vec3(0, 0, 27));
}
SupportOptions trees_wanted() {
    SupportOptions options;
    options.kind = SupportKind::Trees;
    return options;
}

/// Everything that is promised of trees, whatever the part.
void expect_kept(const std::string& name, const TriMesh& part, const Supports& made, double gap = 0.2) {
    const TreeRules rules;
    const DistanceTree tree(part);
    ASSERT_FALSE(made.trees.empty()) << name;
    EXPECT_TRUE(is_closed(made.mesh)) << name;
    EXPECT_EQ(intersecting_pairs(made.mesh).size(), 0u) << name << ": trees reach into each other";
    EXPECT_NEAR(bounding_box(made.mesh).min().z(), 0, 1e-9) << name << ": they stand on the bed";
    size_t tips = 0;
    for (const TreeSupport& one : made.trees) {
        EXPECT_FALSE(one.tips.empty()) << name << ": it carries something";
        tips += one.tips.size();
        for (const Vec3& tip : one.tips) {
            double nearest = 9;
            for (int k = 0; k < 24; ++k)
                nearest = std::min(nearest, tree.closest(tip + rules.tip_radius * Vec3(std::cos(k * pi / 12),
                                                                                       std::sin(k * pi / 12), 0))
                                                .distance_mm);
            nearest = std::min(nearest, tree.closest(tip).distance_mm);
            EXPECT_GT(nearest, gap - 0.02) << name;
            EXPECT_LT(nearest, gap + 0.12) << name;
        }
    }
    EXPECT_GT(tips, made.trees.size()) << name << ": tips lean together";
    double nearest = 9;
    for (size_t i = 0; i < made.mesh.triangles.size(); ++i)
        nearest = std::min(
            nearest, tree.closest((made.mesh.corner(i, 0) + made.mesh.corner(i, 1) + made.mesh.corner(i, 2)) / 3, 9)
                         .distance_mm);
    EXPECT_GT(nearest, gap - 0.12) << name;
    // They need no supports themselves: but for feet on the part, next to nothing hangs, and hardly beyond the limit.
    double hangs = 0, steepest = 0;
    for (uint32_t i : find_overhang(made.mesh, 45).triangles) {
        if (tree.closest(made.mesh.corner(i, 0), 9).distance_mm < 1.2) continue;
        hangs += made.mesh.area_vector(i).norm() / 2;
        steepest = std::max(steepest, hang_angle_deg(made.mesh.area_vector(i).normalized()));
    }
    EXPECT_LT(hangs, 5) << name;
    EXPECT_LT(steepest, 52) << name;
}

} // namespace

TEST(Trees, CarryARoofARingAndAFootInTheWay) {
    struct Case {
        const char* name;
        TriMesh part;
        bool over_part;
    };
    for (const Case& c : {Case{"roof", roof(), false}, Case{"over a foot", roof_over_foot(), true},
                          Case{"ring", lifted_ring(), false}}) {
        const Supports made = make_supports(c.part, trees_wanted());
        expect_kept(c.name, c.part, made);
        const double hangs = find_overhang(c.part, 45).area_mm2;
        EXPECT_LT(made.out_of_reach_mm2, 0.01 * hangs) << c.name;
        const auto on_part = std::count_if(made.trees.begin(), made.trees.end(), [](auto& t) { return t.on_part; });
        EXPECT_EQ(on_part > 0, c.over_part) << c.name;
        // Less plastic than posts under the same.
        SupportOptions posts;
        EXPECT_LT(mass_properties(made.mesh).volume_mm3,
                  0.7 * mass_properties(make_supports(c.part, posts).mesh).volume_mm3)
            << c.name;
        const SupportFigures figures = support_figures(c.part, made, trees_wanted());
        EXPECT_EQ(figures.supports, made.trees.size()) << c.name;
        EXPECT_EQ(figures.touching, made.trees.size()) << c.name << ": each touches what it carries";
        EXPECT_EQ(figures.unsupported_area_mm2, made.out_of_reach_mm2) << c.name;
    }
}

TEST(Trees, TheGapAndTheSpacingAreKept) {
    SupportOptions options = trees_wanted();
    size_t before = ~size_t(0);
    for (double spacing : {3.0, 6.0}) {
        options.spacing_mm = spacing;
        options.contact_gap_mm = 0.35;
        const Supports made = make_supports(roof(), options);
        expect_kept("roof", roof(), made, 0.35);
        size_t tips = 0;
        for (const TreeSupport& t : made.trees) tips += t.tips.size();
        EXPECT_LT(tips, before / 2) << "half as many at twice the spacing";
        before = tips;
    }
}

TEST(Trees, TheSameMeshGivesTheSameTrees) {
    const Supports a = make_supports(lifted_ring(), trees_wanted()), b = make_supports(lifted_ring(), trees_wanted());
    ASSERT_EQ(a.mesh.vertices.size(), b.mesh.vertices.size());
    for (size_t i = 0; i < a.mesh.vertices.size(); ++i) ASSERT_EQ(a.mesh.vertices[i], b.mesh.vertices[i]);
}

TEST(Trees, NothingWhereNothingHangsOrNothingFits) {
    EXPECT_EQ(make_supports(test::cube(20), trees_wanted()).count(), 0u);
    EXPECT_EQ(make_supports({}, trees_wanted()).count(), 0u);
    // 0.6 mm above the bed no tip has room; it is told how much that is.
    TriMesh low = box_mesh({-15, -15, 0.6}, {15, 15, 4});
    append(low, box_mesh({-2, -2, 0}, {2, 2, 2}));
    const Supports none = make_supports(low, trees_wanted());
    EXPECT_EQ(none.count(), 0u);
    EXPECT_GT(none.out_of_reach_mm2, 700);
}

TEST(Trees, StopOnRequest) {
    Task task;
    task.cancel.cancel();
    EXPECT_EQ(make_supports(roof_over_foot(), trees_wanted(), task).count(), 0u);
}

TEST(Trees, OpenMeshesGetWhatTheirFacetsAllow) {
    TriMesh open = roof();
    open.triangles.erase(open.triangles.begin() + 100, open.triangles.begin() + 130);
    const Supports made = make_supports(open, trees_wanted());
    EXPECT_GT(made.count(), 0u);
    EXPECT_TRUE(is_closed(made.mesh));
}

TEST(TreeTubes, TheGapOfTwoUprightTubesIsThatOfTheirDiscs) {
    std::vector<TreeNode> nodes(2);
    nodes[0].at = {0, 0, 3}, nodes[0].radius = 1;
    nodes[1].at = {5, 0, 3}, nodes[1].radius = 0.5;
    EXPECT_NEAR(gap_between(nodes, {{0}, {0, 0, 0}, 1}, {{1}, {5, 0, 0}, 0.5}), 3.5, 1e-12);
    // Leaning towards each other they are nearest below.
    EXPECT_NEAR(gap_between(nodes, {{0}, {1, 0, 0}, 1}, {{1}, {4, 0, 0}, 0.5}), 1.5, 1e-12);
    EXPECT_LT(gap_between(nodes, {{0}, {3, 0, 0}, 1}, {{1}, {3, 0, 0}, 0.5}), 0) << "into each other";
}

TEST(FlatTriangulation, FillsWhatTheHullHoldsOutsideTheLines) {
    auto polygon = [](const Vec2& at, double radius, int n) {
        std::vector<Vec2> line;
        for (int k = 0; k < n; ++k)
            line.push_back(at + radius * Vec2(std::cos(2 * pi * k / n), std::sin(2 * pi * k / n)));
        return line;
    };
    auto area = [](const std::vector<Vec2>& line) {
        double sum = 0;
        for (size_t k = 0; k < line.size(); ++k) {
            const Vec2 &p = line[k], &q = line[(k + 1) % line.size()];
            sum += (p.x() * q.y() - p.y() * q.x()) / 2;
        }
        return sum;
    };
    // Two squares of side 2, five apart: the hull is 2 x 7, between them 2 x 3 (closed formula).
    const std::vector<std::vector<Vec2>> squares{{{0, 0}, {2, 0}, {2, 2}, {0, 2}}, {{5, 0}, {7, 0}, {7, 2}, {5, 2}}};
    for (const auto& lines : {squares, {polygon({0, 0}, 1, 12), polygon({3, 0}, 0.7, 12), polygon({1, 3}, 0.5, 12)}}) {
        const auto patch = patch_between(lines);
        ASSERT_TRUE(patch);
        std::vector<Vec2> all, hull;
        double rings = 0, filled = 0;
        for (const auto& line : lines) {
            all.insert(all.end(), line.begin(), line.end());
            rings += area(line);
        }
        for (const Triangle& t : patch->triangles) {
            const double one = area({all[t[0]], all[t[1]], all[t[2]]});
            EXPECT_GT(one, 0) << "counter-clockwise";
            filled += one;
        }
        for (uint32_t k : patch->hull) hull.push_back(all[k]);
        EXPECT_NEAR(filled, area(hull) - rings, 1e-9);
        if (lines.size() == 2) {
            EXPECT_NEAR(filled, 6, 1e-9);
        }
    }
    EXPECT_FALSE(patch_between({polygon({0, 0}, 1, 12), polygon({1, 0}, 1, 12)})) << "lines that cross";
    EXPECT_FALSE(patch_between({}));
}
