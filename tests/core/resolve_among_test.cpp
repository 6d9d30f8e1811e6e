// Picked faces and edges where several bodies of a part carry the same names: halves of a split, pieces, solids of a
// file. Judged by the body and the face they were picked on.
#include "made_project.h"
#include "project/kept_measures.h"
#include "shape/picked_place.h"
#include "shape/resolve_among.h"
#include "steps/find_edges.h"
#include "steps/find_plane.h"

using namespace lp;
using namespace lp::test;

namespace {

/// Where a cut went through both sides lie in one place, with one name: either will do.
bool is_of_another_too(const std::vector<StepBody>& all, size_t body, Tag tag, const Vec3& place) {
    for (size_t b = 0; b < all.size(); ++b) {
        const Tessellation& shape = all[b].body.tessellation();
        for (size_t f = 0; b != body && f < shape.faces.size(); ++f)
            if (has_tag(shape.faces[f].tags, tag) && distance_to_face(shape, f, place) < 1e-6) return true;
    }
    return false;
}

/// Every face of every body, and every edge of exact ones, is picked and looked for again among all of them.
void finds_its_own(const char* what, const json& steps, size_t bodies) {
    SCOPED_TRACE(what);
    const Made made = make(steps);
    ASSERT_EQ(made.says(), "");
    const std::vector<StepBody>& all = made.part().bodies;
    ASSERT_EQ(all.size(), bodies);
    for (size_t b = 0; b < all.size(); ++b) {
        const Body& body = all[b].body;
        const Tessellation& shape = body.tessellation();
        for (size_t f = 0; f < shape.faces.size(); ++f) {
            const GeometryItem item(make_reference(body, f, shape.faces[f].centre));
            const auto found = find_face(all, {}, item, true);
            ASSERT_TRUE(found) << found.error().text();
            if (is_of_another_too(all, b, shape.faces[f].primary(), shape.faces[f].centre)) continue;
            EXPECT_EQ(found->body, b) << "face " << f;
            const auto measured = find_measurable(made.evaluation, {made.part().part, item});
            ASSERT_TRUE(measured);
            EXPECT_EQ(measured->number, b) << "face " << f << ", measured";
        }
        for (size_t e = 0; body.is_exact() && e < shape.edges.size(); ++e) {
            const auto& points = shape.edges[e].points;
            const GeometryItem item(make_edge_reference(body, e, (points.front() + points.back()) / 2));
            const auto found = edges_of_item(all, {}, item);
            ASSERT_TRUE(found) << found.error().text();
            const int side = shape.edges[e].face_a;
            const Vec3 middle = (points.front() + points.back()) / 2;
            if (side >= 0 && is_of_another_too(all, b, shape.faces[size_t(side)].primary(), middle)) continue;
            EXPECT_TRUE(found->body == b && found->edges == std::vector<size_t>{e}) << "edge " << e;
        }
    }
}

const json halves =
    json::array({block(40, 20, 6), step("split", {{"by", "yz"}, {"distance", 5}, {"keep", "both"}}, "halves")});

} // namespace

TEST(ResolveAmong, FindsFacesAndEdgesOnTheBodyTheyWerePickedOn) {
    finds_its_own("halves", halves, 2);
    finds_its_own("pieces",
                  {block(40, 20, 6), step("block", {{"size_x", 10}, {"size_y", 30}, {"size_z", 10}, {"does", "cut"}}),
                   step("pieces", json::object())},
                  2);
    finds_its_own("halves of triangles",
                  {block(40, 20, 6), step("twist", {{"angle", "5 deg"}, {"to", "6 mm"}}),
                   step("split", {{"by", "yz"}, {"distance", 5}, {"keep", "both"}})},
                  2);
    finds_its_own("halves of halves",
                  {halves[0], halves[1], step("split", {{"by", "xz"}, {"distance", 2}, {"keep", "both"}})}, 4);
}

TEST(ResolveAmong, WhatWasPickedBeforeTheSplitIsWhereThePlaceIs) {
    // The top of the whole meets on both halves as much of what it met: the place that was clicked decides.
    const Made whole = make(json::array({block(40, 20, 6)})), made = make(halves);
    const auto& faces = whole.body().tessellation().faces;
    size_t top = 0;
    while (faces[top].direction.z() < 0.99) ++top;
    for (const double x : {-15.0, 15.0}) {
        const auto found =
            find_face(made.part().bodies, {}, GeometryItem(make_reference(whole.body(), top, Vec3(x, 3, 6))), true);
        ASSERT_TRUE(found);
        EXPECT_GT(made.part().bodies[found->body].body.mass().centre.x() * x, 0) << x;
    }
}

TEST(ResolveAmong, AStepWorksOnTheHalfThatWasPicked) {
    const Made made = make(halves);
    for (const StepBody& half : made.part().bodies) {
        const Tessellation& shape = half.body.tessellation();
        size_t top = 0;
        while (shape.faces[top].direction.z() < 0.99) ++top;
        const std::string face = GeometryItem(make_reference(half.body, top, shape.faces[top].centre)).text();
        const Made pushed = make({halves[0], halves[1], step("push", {{"faces", face}, {"by", 2}})});
        ASSERT_EQ(pushed.says(), "");
        for (const StepBody& now : pushed.part().bodies) {
            const bool picked = (now.body.mass().centre - half.body.mass().centre).head<2>().norm() < 1e-6;
            EXPECT_NEAR(now.body.box().sizes().z(), picked ? 8 : 6, 1e-6);
        }
    }
}

TEST(ResolveAmong, SaysWhatIsLost) {
    const Made made = make(halves), other = make(json::array({step("cylinder", {{"diameter", 8}, {"height", 3}})}));
    const FaceReference side = make_reference(other.body(), 0, Vec3::Zero());
    std::vector<const Body*> bodies;
    EXPECT_FALSE(resolve_among(bodies, side)) << "there is no body";
    for (const StepBody& half : made.part().bodies) bodies.push_back(&half.body);
    FaceReference none = side;
    none.primary = 12345;
    ASSERT_FALSE(resolve_among(bodies, none));
    EXPECT_NE(resolve_among(bodies, none).error().text().find("gone"), std::string::npos);
}
