// The closed floor on supports: where it lies, what it keeps clear of, what holds it. Volumes in closed form.
#include "bed/support_figures.h"
#include "bed/support_interface.h"
#include "layers/line_plan.h"
#include "mesh/combine.h"
#include "mesh/soundness.h"
#include "mesh/topology.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;

namespace {

TriMesh box_at(const Vec3& low, const Vec3& high) {
    return box_mesh(low, high);
}
/// A table of 40 x 40 on one leg of 10 x 10 in a corner, its underside at `under`.
TriMesh table(double under) {
    auto made = combine_meshes(Operation::Join,
                               {box_at({0, 0, 0}, {10, 10, under + 2}), box_at({0, 0, under}, {40, 40, under + 4})});
    EXPECT_TRUE(made);
    return *made;
}
SupportOptions wanted(SupportKind kind, int layers) {
    SupportOptions options;
    options.kind = kind;
    options.interface_layers = layers;
    return options;
}
/// Area of the section of a mesh at a height.
double section_mm2(const TriMesh& mesh, double z) {
    const auto layers = slice(mesh, {0.01, 0.01}, z - 0.005, 1);
    return region_area_mm2(layers[0]);
}

} // namespace

TEST(SupportInterface, LiesAGapBelowAFlatRoofAndBesideItsLeg) {
    const TriMesh part = table(20);
    for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees}) {
        const Supports made = make_supports(part, wanted(kind, 3));
        EXPECT_TRUE(is_closed(made.mesh)) << word_of(kind);
        EXPECT_EQ(intersecting_pairs(made.mesh).size(), 0u) << word_of(kind);
        EXPECT_NEAR(bounding_box(made.mesh).max().z(), 19.8, 1e-6) << word_of(kind);
        // All of the roof but the leg and the gap beside it; rims beyond the last tips may be left.
        const double whole = 40 * 40 - 10.2 * 10.2;
        for (double below : {0.3, 0.5, 0.7}) {
            EXPECT_LT(section_mm2(made.mesh, 20 - below), whole + 25) << word_of(kind) << below;
            EXPECT_GT(section_mm2(made.mesh, 20 - below), 0.93 * whole) << word_of(kind) << below;
        }
        EXPECT_LT(section_mm2(made.mesh, 20 - 0.9), 0.3 * whole) << word_of(kind) << ": three layers of 0.2";
        const DistanceTree tree(part);
        double nearest = 9;
        for (const Vec3& p : made.mesh.vertices) nearest = std::min(nearest, tree.closest(p).distance_mm);
        EXPECT_GT(nearest, 0.19) << word_of(kind) << ": it keeps the contact gap";
        EXPECT_NEAR(made.interface_mm2, 40 * 40 - 100, 0.07 * whole) << word_of(kind);
        const SupportFigures figures = support_figures(part, made, wanted(kind, 3));
        EXPECT_EQ(figures.touching, figures.supports) << word_of(kind);
        const Supports bare = make_supports(part, wanted(kind, 0));
        EXPECT_EQ(bare.interface_mm2, 0);
        EXPECT_GT(figures.volume_mm3 - support_figures(part, bare, wanted(kind, 0)).volume_mm3, 0.6 * 0.8 * whole);
    }
}

TEST(SupportInterface, KeepsTheGapWhereverTheRoofLiesBetweenLayers) {
    for (double under : {20.0, 20.05, 20.1, 20.15, 20.19}) {
        const TriMesh part = table(under);
        const Supports made = make_supports(part, wanted(SupportKind::Posts, 2));
        EXPECT_TRUE(is_closed(made.mesh)) << under;
        // The floor's top is a border of layers: at least the gap below the roof, less than a layer more.
        EXPECT_GT(section_mm2(made.mesh, 19.75), 1000) << under;
        EXPECT_LT(section_mm2(made.mesh, 19.85), 300) << under << ": posts alone";
    }
    // Finer layers: as many of them make the gap.
    SupportOptions fine = wanted(SupportKind::Posts, 2);
    fine.heights = {0.1, 0.1};
    const Supports made = make_supports(table(20), fine);
    EXPECT_GT(section_mm2(made.mesh, 19.75), 1000);
    EXPECT_LT(section_mm2(made.mesh, 19.55), 300) << "two layers of 0.1";
}

TEST(SupportInterface, FollowsSlopesAndKeepsOffMarkedFaces) {
    // A ring lies; its underside is round. The floor is as far from it everywhere.
    const TriMesh ring = test::moved_by(test::torus(25, 7, 96, 32), Vec3(0, 0, 20));
    const Supports round = make_supports(ring, wanted(SupportKind::Trees, 2));
    EXPECT_TRUE(is_closed(round.mesh));
    EXPECT_GT(round.interface_mm2, 300);
    const DistanceTree tree(ring);
    for (const Vec3& p : round.mesh.vertices) ASSERT_GT(tree.closest(p).distance_mm, 0.12);

    const TriMesh part = table(20);
    FacetMarks marks;
    for (size_t i = 0; i < part.triangles.size(); ++i)
        marks.of.push_back(part.area_vector(i).normalized().z() < -0.9 && part.corner(i, 0).z() > 1
                               ? uint8_t(1 + int(FaceMark::Never))
                               : uint8_t(0));
    const Supports none = make_supports(part, wanted(SupportKind::Posts, 2), {}, {marks, {}});
    EXPECT_EQ(none.interface_mm2, 0);
    EXPECT_EQ(make_supports(test::cube(20), wanted(SupportKind::Posts, 3)).count(), 0u) << "nothing hangs";

    SupportOptions wrong = wanted(SupportKind::Posts, 21);
    EXPECT_TRUE(check_supports(wrong));
    wrong.interface_layers = -1;
    EXPECT_TRUE(check_supports(wrong));
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_EQ(make_supports(part, wanted(SupportKind::Posts, 3), stopped).interface_mm2, 0);
}

TEST(SupportInterface, ItsLayersAreFilledInThePlan) {
    // A support of 20 x 20 for ten layers: two filled on top hold five times the lines of those below, rows 0.45 apart.
    const Region square{{{0, 0}, {20 * 100000, 0}, {20 * 100000, 20 * 100000}, {0, 20 * 100000}}};
    const std::vector<Region> part(12), supports(10, square);
    LineOptions options;
    options.interface_layers = 2;
    const auto lines = plan_lines(part, options, supports);
    ASSERT_TRUE(lines);
    const double open = (*lines)[5].volume_mm3(), filled = (*lines)[8].volume_mm3();
    EXPECT_NEAR(filled, 400 * 0.2, 0.03 * 80);
    EXPECT_NEAR((*lines)[9].volume_mm3(), filled, 1e-6);
    EXPECT_NEAR((*lines)[7].volume_mm3(), open, 1e-6);
    EXPECT_LT(open, 0.4 * filled);
}
