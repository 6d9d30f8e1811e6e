// Small tools under the steps: finer facets, copies, pieces, names in remade parts, moves that cannot be.
#include "made_project.h"
#include "mesh/refine.h"
#include "mesh/soundness.h"
#include "project/references.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/find_edges.h"
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {
Body box(double x, double y, double z, const Vec3& at = Vec3::Zero()) {
    Transform place = Transform::Identity();
    place.translate(at);
    return make_block({x, y, z}, place, {1, 0}).value();
}
} // namespace

TEST(Refine, FacetsGetShortEdgesAndTheSurfaceStays) {
    Body rod = make_cylinder(6, 30, Transform::Identity(), {1, 0}).value();
    auto fine = refined(rod.mesh(), [](const Vec3&, const Vec3&) { return 1.5; });
    ASSERT_TRUE(fine);
    EXPECT_GT(fine->triangles.size(), 3 * rod.mesh().triangles.size());
    EXPECT_NEAR(mass_properties(*fine).volume_mm3, mass_properties(rod.mesh()).volume_mm3, 1e-6);
    EXPECT_TRUE(check_soundness(*fine).sound());
    EXPECT_EQ(fine->tags.size(), fine->triangles.size());
    for (const Triangle& t : fine->triangles)
        for (size_t k = 0; k < 3; ++k)
            ASSERT_LE((fine->vertices[t[k]] - fine->vertices[t[(k + 1) % 3]]).norm(), 1.5 + 1e-9);
    // Only along one axis: edges across stay as they were.
    auto along = refined(rod.mesh(), [](const Vec3&, const Vec3& way) { return std::fabs(way.z()) > 0.9 ? 2.0 : 1e9; });
    ASSERT_TRUE(along);
    EXPECT_LT(along->triangles.size(), fine->triangles.size());
    EXPECT_TRUE(check_soundness(*along).closed);
}

TEST(Refine, BetweenMarkedCornersAloneAndStaysClosed) {
    const TriMesh body = refined(box(40, 30, 20).mesh(), [](const Vec3&, const Vec3&) { return 8.0; }).value();
    std::vector<uint8_t> marked(body.vertices.size());
    for (size_t v = 0; v < marked.size(); ++v) marked[v] = body.vertices[v].x() < 20;
    auto fine = refined_between(body, marked, 1);
    ASSERT_TRUE(fine);
    EXPECT_TRUE(check_soundness(*fine).sound());
    EXPECT_NEAR(mass_properties(*fine).volume_mm3, 40 * 30 * 20, 1e-6);
    size_t small = 0;
    for (const Triangle& t : fine->triangles)
        for (size_t k = 0; k < 3; ++k) {
            const Vec3 &a = fine->vertices[t[k]], &b = fine->vertices[t[(k + 1) % 3]];
            if (a.x() >= 20 || b.x() >= 20) continue;
            ++small;
            ASSERT_LE((b - a).norm(), 1 + 1e-9) << a.transpose() << " to " << b.transpose();
        }
    EXPECT_GT(small, 4000u);
    EXPECT_EQ(refined_between(body, std::vector<uint8_t>(marked.size()), 1)->triangles.size(), body.triangles.size());
    EXPECT_FALSE(refined_between(body, std::vector<uint8_t>(marked.size(), 1), 0.01)) << "far too many";
}

TEST(Refine, FollowsAMapOnlyWhereItLeavesThePlane) {
    // A taper about z: upright walls stay flat, whatever lies slanting becomes a saddle.
    auto taper = [](const Vec3& p) { return Vec3(p.x() * (1 - 0.02 * p.z()), p.y() * (1 - 0.02 * p.z()), p.z()); };
    const TriMesh upright = box(40, 30, 20).mesh();
    EXPECT_EQ(refined_for(upright, taper, 0.01)->triangles.size(), upright.triangles.size());
    TriMesh leaning = upright;
    const Eigen::Matrix3d turn =
        (Eigen::AngleAxisd(0.5, Vec3::UnitX()) * Eigen::AngleAxisd(0.7, Vec3::UnitY())).matrix();
    for (Vec3& v : leaning.vertices) v = turn * v;
    auto fine = refined_for(leaning, taper, 0.01);
    ASSERT_TRUE(fine);
    EXPECT_TRUE(check_soundness(*fine).sound());
    EXPECT_GT(fine->triangles.size(), 50u);
    EXPECT_LT(fine->triangles.size(), 5000u);
    // A quadratic that vanishes at the corners is 4 (m12 l1 l2 + m23 l2 l3 + m31 l3 l1), m at the middles of the edges
    // and l barycentric (closed formula): inside it is at most 4/3 of the largest m.
    std::mt19937 random(7);
    std::uniform_real_distribution<double> share(0, 1);
    for (const Triangle& t : fine->triangles) {
        const Vec3 a = fine->vertices[t[0]], b = fine->vertices[t[1]], c = fine->vertices[t[2]];
        const Vec3 normal = (taper(b) - taper(a)).cross(taper(c) - taper(a)).normalized();
        for (int k = 0; k < 5; ++k) {
            double l = share(random), m = share(random) * (1 - l);
            const Vec3 p = a + l * (b - a) + m * (c - a);
            ASSERT_LE(std::fabs(normal.dot(taper(p) - taper(a))), 0.01 * 4 / 3 + 1e-9);
        }
    }
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_EQ(refined_for(leaning, taper, 0.01, stopped).error().code, ProblemCode::Cancelled);
}

TEST(Refine, EndsWhenItIsTooMuchOrStopped) {
    auto endless = refined(box(100, 100, 100).mesh(), [](const Vec3&, const Vec3&) { return 0.01; });
    ASSERT_FALSE(endless);
    EXPECT_NE(endless.error().sentence.find("two million"), std::string::npos);
    Task stopped;
    stopped.cancel.cancel();
    auto none = refined(
        box(1, 1, 1).mesh(), [](const Vec3&, const Vec3&) { return 0.1; }, stopped);
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().code, ProblemCode::Cancelled);
}

TEST(Copies, MirroredAndScaledBodiesKeepTheirNamesAndTheFormulas) {
    Body wedge = box(20, 10, 5, {3, 4, 5});
    Affine mirror = Affine::Identity();
    mirror.linear()(0, 0) = -1;
    auto image = mapped(wedge, mirror);
    ASSERT_TRUE(image);
    EXPECT_NEAR(image->mass().volume_mm3, 1000, 1e-9);
    EXPECT_NEAR(mass_properties(image->mesh()).volume_mm3, 1000, 1e-6) << "not inside out";
    EXPECT_NEAR(image->box().max().x(), -3, 1e-9);
    for (const FaceInfo& face : image->tessellation().faces) { // what looked right looks left, by the same name
        auto meaning = tag_meaning(face.primary());
        ASSERT_TRUE(meaning);
        if (meaning->role == FaceRole::MaxX) {
            EXPECT_NEAR(face.direction.x(), -1, 1e-9);
        }
        if (meaning->role == FaceRole::Top) {
            EXPECT_NEAR(face.direction.z(), 1, 1e-9);
        }
    }
    auto twice = mapped(wedge, Affine(Eigen::Scaling(2.0)));
    EXPECT_NEAR(twice->mass().area_mm2, 4 * wedge.mass().area_mm2, 1e-6);
    EXPECT_NEAR((twice->mass().centre - 2 * wedge.mass().centre).norm(), 0, 1e-9);
    Affine flat = Affine::Identity();
    flat.linear()(2, 2) = 0;
    EXPECT_FALSE(mapped(wedge, flat));
    Body copy = renamed_copy(wedge, StepId(9), 3);
    auto meaning = tag_meaning(copy.tessellation().faces[0].primary());
    ASSERT_TRUE(meaning);
    EXPECT_EQ(meaning->step, StepId(9));
    EXPECT_EQ(meaning->copy, 3u);
    EXPECT_EQ(meaning->role, FaceRole::Derived);
}

TEST(Copies, PiecesComeLargestFirstAndKeepTheirCavities) {
    TriMesh mesh = box_mesh({0, 0, 0}, {2, 2, 2});
    append(mesh, box_mesh({10, 0, 0}, {20, 10, 10}));
    TriMesh hollow = box_mesh({12, 2, 2}, {16, 6, 6});
    for (Triangle& t : hollow.triangles) std::swap(t[1], t[2]);
    append(mesh, hollow);
    auto pieces = separate_pieces(Body::from_mesh(mesh));
    ASSERT_TRUE(pieces);
    ASSERT_EQ(pieces->size(), 2u);
    EXPECT_NEAR((*pieces)[0].mass().volume_mm3, 1000 - 64, 1e-9);
    EXPECT_NEAR((*pieces)[1].mass().volume_mm3, 8, 1e-9);
    auto exact = combine(Operation::Join, box(2, 2, 2), {box(10, 10, 10, {20, 0, 0})});
    ASSERT_TRUE(exact);
    auto apart = separate_pieces(exact->body);
    ASSERT_TRUE(apart);
    ASSERT_EQ(apart->size(), 2u);
    EXPECT_NEAR((*apart)[0].mass().volume_mm3, 1000, 1e-9);
    EXPECT_TRUE((*apart)[0].is_exact());
}

TEST(TagsInCopies, GoThereAndBackAlsoThroughInstances) {
    Tag top = intern_tag({StepId(7), FaceRole::Top, 0, 0, 0}), third = derive_tag(top, StepId(8), 3);
    for (Tag tag : {top, third}) {
        Tag grown = tag_in_copy(tag, 0xabcd);
        EXPECT_NE(grown, tag);
        EXPECT_EQ(tag_in_copy(grown, 0xabcd), tag);
        EXPECT_EQ(tag_in_copy(tag, 0), tag);
    }
    EXPECT_EQ(tag_meaning(tag_in_copy(third, 0xabcd))->copy, 3u) << "instances are counted, not remade";
}

TEST(StepUses, AreFoundByNameNumberAndWords) {
    Made m =
        make({block(40, 30, 10, "plate"), step("cylinder", {{"diameter", 5}, {"height", 20}, {"does", "cut"}}, "hole"),
              step("repeat", {{"steps", "hole"}, {"count", 2}, {"by_x", "10 mm"}}, "row"),
              step("fillet", {{"edges", "of top of plate; foot of hole"}, {"radius", "0.5 mm"}})});
    const Part& part = *m.project->parts[0];
    EXPECT_EQ(steps_used_by(*m.project, part, part.steps[2]), std::vector<StepId>{part.steps[1].id});
    EXPECT_EQ(steps_used_by(*m.project, part, part.steps[3]).size(), 2u);
    auto wrong = check_move(*m.project, part, part.steps[2].id, 0);
    ASSERT_TRUE(wrong);
    EXPECT_NE(wrong->sentence.find("step 3 (row) uses step 2 (hole)"), std::string::npos) << wrong->sentence;
    EXPECT_TRUE(check_move(*m.project, part, part.steps[1].id, 3));
    EXPECT_FALSE(check_move(*m.project, part, part.steps[3].id, 2));
}

TEST(EdgesInWords, AreFoundOrRefusedInWords) {
    std::vector<StepBody> bodies{{StepId(10), "b", box(20, 10, 5)}};
    StepContext context;
    context.step_named = [](const std::string& name) -> std::optional<StepId> {
        return name == "b" ? std::optional(StepId(1)) : std::nullopt;
    };
    auto count = [&](const char* text) {
        auto found = find_edges(bodies, context, text);
        return found ? int(found->edges.size()) : -1;
    };
    EXPECT_EQ(count("all"), 12);
    EXPECT_EQ(count("upright"), 4);
    EXPECT_EQ(count("of top of b"), 4);
    EXPECT_EQ(count("of top of b; upright"), 8);
    EXPECT_EQ(count("of top of b; of right of b; all"), 12) << "without repeats";
    EXPECT_EQ(count("made by b"), 12);
    for (const char* bad : {"", ";;", "none of it", "of", "of lid", "made by nobody", "foot of b", "{}", "{\"a\":1}",
                            "of {}", "of {\"tags\":[]}"})
        EXPECT_EQ(count(bad), -1) << bad;
    auto none = find_edges({}, context, "all");
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().sentence.find("no body"), std::string::npos);
}
