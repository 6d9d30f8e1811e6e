// What posts do for a part, told in figures: against areas that are known.
#include "bed/support_figures.h"
#include "check/overhang.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;
using std::numbers::pi;

namespace {

/// A slab on a leg in its middle: hangs by length * width - leg * leg.
TriMesh slab(double length, double width, double leg, double high) {
    TriMesh mesh = box_mesh({-length / 2, -width / 2, high}, {length / 2, width / 2, high + 3});
    append(mesh, box_mesh({-leg / 2, -leg / 2, 0}, {leg / 2, leg / 2, high + 1}));
    return mesh;
}

} // namespace

TEST(SupportFigures, WithoutPostsAllThatHangsIsLeft) {
    for (double length : {20.0, 55.0}) {
        TriMesh mesh = slab(length, 24, 6, 15);
        SupportFigures none = support_figures(mesh, {}, {});
        EXPECT_EQ(none.supports + none.touching + none.standing_on_part, 0u);
        EXPECT_EQ(none.volume_mm3, 0);
        // The whole underside of the slab; the leg goes into it.
        EXPECT_NEAR(none.unsupported_area_mm2, length * 24, 1e-6 * length * 24);
        EXPECT_NEAR(none.unsupported_area_mm2, find_overhang(mesh, 45).area_mm2, 1e-9 * length * 24);
    }
}

TEST(SupportFigures, APostCarriesACircleOfTheGridsReach) {
    TriMesh mesh = slab(60, 60, 4, 15);
    SupportOptions options;
    const double reach = options.spacing_mm * std::numbers::sqrt2 / 2 + options.tip_mm / 2;
    Supports two;
    for (const Vec3& tip : {Vec3(-15, -15, 14.8), Vec3(15, 15, 14.8)})
        two.posts.push_back({{tip.x(), tip.y(), 0}, tip, options.post_mm, options.tip_mm, false});
    SupportFigures figures = support_figures(mesh, two, options);
    EXPECT_EQ(figures.supports, 2u);
    EXPECT_EQ(figures.touching, 2u);
    // Counted on pieces of a millimetre: a circle's rim is known to about its length times half a piece.
    EXPECT_NEAR(figures.unsupported_area_mm2, 3600 - 2 * pi * reach * reach, 2 * pi * reach);
    // One that ends too low touches nothing, and carries all the same what lies over it within the reach.
    two.posts[1].tip.z() = 14.2;
    EXPECT_EQ(support_figures(mesh, two, options).touching, 1u);
    two.posts[1].tip.z() = 2;
    EXPECT_NEAR(support_figures(mesh, two, options).unsupported_area_mm2, 3600 - pi * reach * reach, 2 * pi * reach)
        << "far below it carries nothing";
}

TEST(SupportFigures, PostsAsTheyAreMadeLeaveLittle) {
    for (double gap : {0.1, 0.2, 0.4}) {
        TriMesh mesh = slab(48, 36, 6, 12);
        SupportOptions options;
        options.contact_gap_mm = gap;
        Supports posts = make_supports(mesh, options);
        SupportFigures figures = support_figures(mesh, posts, options);
        EXPECT_EQ(figures.supports, posts.posts.size());
        EXPECT_EQ(figures.touching, figures.supports) << gap;
        EXPECT_EQ(figures.standing_on_part, 0u);
        EXPECT_NEAR(figures.volume_mm3, mass_properties(posts.mesh).volume_mm3, 1e-9);
        EXPECT_LT(figures.unsupported_area_mm2, 0.05 * 48 * 36) << gap;
        // The wider the limit the less is said to hang.
        options.overhang_limit_deg = 89.9;
        EXPECT_LE(support_figures(mesh, posts, options).unsupported_area_mm2, figures.unsupported_area_mm2 + 1e-9);
    }
    EXPECT_EQ(support_figures(test::cube(10), {}, {}).unsupported_area_mm2, 0) << "nothing hangs";
}
