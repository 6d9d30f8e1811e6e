// Every size of a support as it is typed: tip, neck, shaft, foot, and the gap in layers. Areas of regular twelve-sided
// sections in closed form: half of 12 r^2 sin 30 degrees, three times r squared.
#include "bed/support_figures.h"
#include "mesh/combine.h"
#include "mesh/soundness.h"
#include "mesh/topology.h"
#include "shape/mesh_distance.h"
#include "test_meshes.h"
#include <gtest/gtest.h>

using namespace lp;

namespace {

/// A plate high up on a wall at its end.
TriMesh bracket(double length = 40, double under = 20) {
    auto made = combine_meshes(
        Operation::Join, {box_mesh({0, 0, 0}, {6, 12, under + 4}), box_mesh({0, 0, under}, {length, 12, under + 4})});
    EXPECT_TRUE(made);
    return *made;
}
/// Section of one of the supports at a height: the largest shell's.
double section_mm2(const TriMesh& mesh, double z) {
    return region_area_mm2(slice(mesh, {0.01, 0.01}, z - 0.005, 1)[0]);
}
double twelve_sided(double radius) {
    return 3 * radius * radius;
}
SupportOptions sized(SupportKind kind) {
    SupportOptions options;
    options.kind = kind;
    return options;
}

} // namespace

TEST(SupportSizes, APostIsWideAtItsFootAndNarrowAtItsNeck) {
    const TriMesh part = bracket();
    SupportOptions options = sized(SupportKind::Posts);
    options.spacing_mm = 8;
    options.neck_mm = 4;
    options.foot_mm = 1.5;
    const Supports made = make_supports(part, options);
    ASSERT_GT(made.posts.size(), 2u);
    const double tip_z = made.posts[0].tip.z();
    EXPECT_NEAR(tip_z, 19.8, 1e-9);
    /// Of all posts at a height: foot at 45 degrees, shaft, neck.
    auto expected = [&](const Supports& posts, double neck, double z) {
        double sum = 0;
        for (const Post& post : posts.posts) {
            const double below = post.tip.z() - z, shaft = post.post_mm / 2, tip = post.tip_mm / 2;
            sum += twelve_sided(below < neck ? tip + (shaft - tip) * below / neck
                                             : shaft + std::max(0.0, post.foot_mm - z));
        }
        return sum;
    };
    EXPECT_EQ(std::count_if(made.posts.begin(), made.posts.end(), [](const Post& p) { return p.foot_mm > 1.499; }),
              long(made.posts.size()) - 2)
        << "8 mm apart there is room; two stand nearer to the wall";
    for (double z : {0.01, 0.5, 1.0, 8.0, tip_z - 3, tip_z - 1})
        EXPECT_NEAR(section_mm2(made.mesh, z), expected(made, 4, z), 0.02 * expected(made, 4, z)) << z;
    options.neck_mm = 0.5;
    const Supports short_neck = make_supports(part, options);
    ASSERT_EQ(short_neck.posts.size(), made.posts.size());
    for (double z : {8.0, tip_z - 0.6, tip_z - 0.25})
        EXPECT_NEAR(section_mm2(short_neck.mesh, z), expected(short_neck, 0.5, z), 0.03 * expected(short_neck, 0.5, z))
            << z;
    EXPECT_EQ(support_figures(part, short_neck, options).touching, short_neck.count());
    options.foot_mm = 0;
    const Supports straight = make_supports(part, options);
    EXPECT_NEAR(section_mm2(straight.mesh, 0.01), expected(straight, 0.5, 0.01), 0.5);
    for (const Post& post : straight.posts) EXPECT_EQ(post.foot_mm, 0);
}

TEST(SupportSizes, FeetKeepOffEachOtherAndOffThePart) {
    const TriMesh part = bracket();
    for (double wider : {0.5, 1.0, 4.0, 10.0}) {
        SupportOptions options = sized(SupportKind::Posts);
        options.foot_mm = wider;
        const Supports made = make_supports(part, options);
        ASSERT_GT(made.posts.size(), 10u);
        EXPECT_TRUE(is_closed(made.mesh));
        EXPECT_EQ(intersecting_pairs(made.mesh).size(), 0u) << wider;
        EXPECT_GT(closest_pair(DistanceTree(made.mesh), DistanceTree(part), 5).distance_mm, 0.2 - 2e-3) << wider;
        for (const Post& a : made.posts) {
            EXPECT_LE(a.foot_mm, wider);
            for (const Post& b : made.posts)
                if (&a != &b && !a.on_part && !b.on_part) {
                    EXPECT_GT((a.foot - b.foot).norm(), (a.post_mm + b.post_mm) / 2 + a.foot_mm + b.foot_mm + 0.19);
                }
        }
    }
}

TEST(SupportSizes, ANeckMakesABranchOfATreeThinForLonger) {
    const TriMesh part = bracket(40, 40);
    auto volume_near_tips = [&](double neck) {
        SupportOptions options = sized(SupportKind::Trees);
        options.neck_mm = neck;
        options.post_mm = 4; // thick branches: the neck is seen
        options.spacing_mm = 8;
        const Supports made = make_supports(part, options);
        EXPECT_TRUE(is_closed(made.mesh));
        EXPECT_EQ(intersecting_pairs(made.mesh).size(), 0u) << neck;
        EXPECT_EQ(support_figures(part, made, options).touching, made.count());
        double sum = 0;
        for (double below = 0.5; below < 4; below += 0.5) sum += section_mm2(made.mesh, 39.8 - below);
        return sum / double(std::max<size_t>(1, made.carried.size()));
    };
    EXPECT_LT(volume_near_tips(5), 0.85 * volume_near_tips(0.5));
}

TEST(SupportSizes, AFootOfATreeIsAsWideAsTyped) {
    const TriMesh part = bracket(60, 40);
    auto on_bed = [&](double foot) {
        SupportOptions options = sized(SupportKind::Trees);
        options.foot_mm = foot;
        const Supports made = make_supports(part, options);
        EXPECT_TRUE(is_closed(made.mesh));
        return section_mm2(made.mesh, 0.01);
    };
    const double none = on_bed(0), one = on_bed(1), three = on_bed(3);
    EXPECT_LT(none, one);
    EXPECT_LT(one, three);
}

TEST(SupportSizes, TheGapIsTypedInLayersOfThePrint) {
    const TriMesh part = bracket();
    for (SupportKind kind : {SupportKind::Posts, SupportKind::Trees})
        for (double layer : {0.12, 0.2, 0.28}) {
            SupportOptions options = sized(kind);
            options.heights = {layer, 0.24};
            options.gap_layers = 2;
            EXPECT_DOUBLE_EQ(options.gap_mm(), 2 * layer);
            const Supports made = make_supports(part, options);
            ASSERT_GT(made.count(), 0u);
            EXPECT_NEAR(bounding_box(made.mesh).max().z(), 20 - 2 * layer, 0.02) << word_of(kind) << layer;
            EXPECT_EQ(support_figures(part, made, options).touching, made.count());
            options.gap_layers = 0;
            EXPECT_DOUBLE_EQ(options.gap_mm(), 0.2);
        }
}

TEST(SupportSizes, SizesThatMakeNoSenseAreRefused) {
    auto refused = [](auto change) {
        SupportOptions options;
        change(options);
        return check_supports(options).has_value();
    };
    EXPECT_FALSE(refused([](SupportOptions&) {}));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.neck_mm = 0; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.neck_mm = 21; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.foot_mm = -0.1; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.foot_mm = 11; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.gap_layers = -1; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.gap_layers = 11; }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.neck_mm = std::nan(""); }));
    EXPECT_TRUE(refused([](SupportOptions& o) { o.tip_mm = 3; })) << "wider than its post";
}
