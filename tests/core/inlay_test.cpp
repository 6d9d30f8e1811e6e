// Inlays: rooms and plugs by closed formulas, the gap between them measured, what cannot be let in.
#include "kind_samples.h"
#include "mesh/soundness.h"
#include "project/bodies_apart.h"
#include "shape/mesh_distance.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

/// A plate of 40 x 30 x `thick` with a ring drawn above it, outer radius 8, inner 5, let in with these fields.
json sign(double thick, const json& fields, double at_z = -1) {
    json ring = circles(0, 0, 8);
    ring.push_back(circles(0, 0, 5)[0]);
    return json::array({block(40, 30, thick, "plate"),
                        sample_outline("emblem", ring, {{"distance", at_z < 0 ? thick : at_z}}),
                        step("inlay", fields)});
}
const Body& plate(const Made& it) {
    return it.body(0);
}
const Body& plug(const Made& it) {
    return it.body(1);
}
const StepOutcome& inlay(const Made& it) {
    return it.part().steps.back();
}

} // namespace

TEST(Inlay, RoomAndPlugAsFormulasSayAndTheGapBetweenThem) {
    const Made flush = make(sign(4, {{"depth", 1.2}, {"gap", 0.1}}));
    ASSERT_EQ(flush.part().bodies.size(), 2u) << inlay(flush).says;
    EXPECT_NEAR(plate(flush).mass().volume_mm3, 40 * 30 * 4 - pi * (64 - 25) * 1.2, 1e-3);
    // Smaller by the gap all round and below: radii 7.9 and 5.1, height 1.1.
    EXPECT_NEAR(plug(flush).mass().volume_mm3, pi * (7.9 * 7.9 - 5.1 * 5.1) * 1.1, 1e-3);
    EXPECT_NEAR(plug(flush).box().max().z(), 4, 1e-6);
    EXPECT_NEAR(closest_pair(DistanceTree(plate(flush).mesh()), DistanceTree(plug(flush).mesh()), 5).distance_mm, 0.1,
                0.01);
    EXPECT_EQ(flush.part().bodies[1].called(), "plug");
    const Made proud = make(sign(4, {{"depth", 1.2}, {"gap", 0.2}, {"proud", 0.6}}));
    EXPECT_NEAR(plug(proud).mass().volume_mm3, pi * (7.8 * 7.8 - 5.2 * 5.2) * 1.6, 1e-3);
    EXPECT_NEAR(plug(proud).box().max().z(), 4.6, 1e-6);
    const Made tight = make(sign(4, {{"depth", 1.2}, {"gap", 0}}));
    EXPECT_NEAR(plate(tight).mass().volume_mm3 + plug(tight).mass().volume_mm3, 40 * 30 * 4, 1e-3);
}

TEST(Inlay, CutThroughThePlugsStandOnAPlateBehind) {
    const Made through = make(sign(3, {{"depth", 3}, {"gap", 0.1}, {"plate", 1}}));
    ASSERT_EQ(through.part().bodies.size(), 2u) << inlay(through).says;
    EXPECT_NEAR(plate(through).mass().volume_mm3, 40 * 30 * 3 - pi * (64 - 25) * 3, 1e-3);
    // A plate of 20 x 20 x 1 below, 2 mm wider than the emblem all round; the ring on it as high as the part.
    EXPECT_NEAR(plug(through).mass().volume_mm3, 20 * 20 * 1 + pi * (7.9 * 7.9 - 5.1 * 5.1) * 3, 1e-3);
    EXPECT_NEAR(plug(through).box().min().z(), -1, 1e-6);
    EXPECT_EQ(plug(through).pieces(), 1);
    EXPECT_TRUE(inlay(through).says.find("piece") != std::string::npos)
        << "the middle of the ring is loose: " << inlay(through).says;
    const Made thick = make(sign(6, {{"depth", 3}, {"plate", 1}}));
    EXPECT_FALSE(inlay(thick).ok);
    EXPECT_TRUE(inlay(thick).says.find("thicker") != std::string::npos) << inlay(thick).says;
}

TEST(Inlay, WhatCannotBeLetInIsSaidAndTheLastGoodBodyStays) {
    auto refused = [](const json& project, const char* word) {
        const Made it = make(project);
        EXPECT_FALSE(inlay(it).ok) << word;
        EXPECT_TRUE(inlay(it).says.find(word) != std::string::npos) << inlay(it).says;
        EXPECT_NEAR(plate(it).mass().volume_mm3, 40 * 30 * 4, 1e-6);
    };
    refused(sign(4, {{"depth", 3}, {"gap", 2}}), "finer");
    refused(sign(4, {{"depth", 1}, {"gap", 0.5}, {"proud", -0.5}}), "so low");
    refused(sign(4, {{"depth", 1}}, 30), "does not lie");
    refused(sign(4, {{"depth", 0}}), "depth");
    refused(sign(4, {{"gap", -1}}), "gap");
}

TEST(Inlay, OnAMeshItIsAMeshAndInAHaloItGrows) {
    json steps = sign(4, {{"depth", 1.2}, {"gap", 0.1}});
    steps.insert(steps.begin() + 1, step("skew", {{"angle", "0.01 deg"}}));
    const Made facets = make(steps);
    ASSERT_EQ(facets.part().bodies.size(), 2u) << inlay(facets).says;
    EXPECT_FALSE(plate(facets).is_exact());
    EXPECT_TRUE(check_soundness(plate(facets).mesh(), {}).closed);
    EXPECT_NEAR(plate(facets).mass().volume_mm3, 40 * 30 * 4 - pi * 39 * 1.2, 0.2);
    // Another part in which the sign sits: its place is larger all round, its emblem's room smaller.
    const Made frame = make_parts(
        {{"Sign", sign(4, {{"depth", 1.2}, {"gap", 0.1}})},
         {"Frame", json::array({block(60, 50, 3, "f"), step("cut_with", {{"tool", "Sign"}, {"fit", "0.2 mm"}})})}});
    EXPECT_EQ(frame.says(), "");
}

TEST(BodiesApart, ThePlugBecomesAPartInAnotherColourWhereItStood) {
    const Made it = make(sign(4, {{"depth", 1.2}, {"gap", 0.1}}));
    const PartId id = it.project->parts[0]->id;
    EXPECT_EQ(lesser_bodies(it.part()), std::vector<std::string>{"plug"});
    const std::string colour = other_colour(*it.project, *it.project->parts[0]);
    EXPECT_NE(colour, it.project->parts[0]->colour);
    auto edit = bodies_apart(it.evaluation, id, {"plug"}, "Sign plug", colour);
    ASSERT_TRUE(edit) << edit.error().text();
    auto next = apply_edit(*it.project, *edit);
    ASSERT_TRUE(next) << next.error().text();
    Evaluator evaluator;
    auto after = evaluator.evaluate(next->project);
    ASSERT_TRUE(after);
    ASSERT_EQ(after->parts.size(), 2u);
    EXPECT_EQ(after->parts[0].bodies.size(), 1u);
    ASSERT_EQ(after->parts[1].bodies.size(), 1u);
    EXPECT_NEAR(after->parts[0].mass.volume_mm3, plate(it).mass().volume_mm3, 1e-6);
    EXPECT_NEAR(after->parts[1].mass.volume_mm3, plug(it).mass().volume_mm3, 1e-6);
    EXPECT_EQ(next->project->parts[1]->colour, colour);
    EXPECT_FALSE(bodies_apart(it.evaluation, id, {}, "x"));
    EXPECT_FALSE(bodies_apart(it.evaluation, id, {"no such"}, "x"));
    EXPECT_FALSE(bodies_apart(it.evaluation, id, {it.part().bodies[0].called(), "plug"}, "x"))
        << "nothing would be left";
    EXPECT_FALSE(bodies_apart(it.evaluation, PartId(99), {"plug"}, "x"));
}

namespace {

/// A pot of 40 with a disc of 8, 1.2 high, drawn on the ground beside it and laid on its wall in the middle.
json on_a_pot(const json& fields) {
    json laid{{"what", "disc"}, {"on", "side of pot"}, {"height", "20 mm"}, {"sunk", "1.2 mm"}, {"does", "let in"}};
    laid.update(fields);
    return json::array({step("cylinder", {{"diameter", 40}, {"height", 40}}, "pot"),
                        step("cylinder", {{"diameter", 8}, {"height", 1.2}, {"at_x", 0}, {"does", "new"}}, "disc"),
                        step("lie_on", laid)});
}

} // namespace

TEST(InlayOnRoundWalls, RoomAndPlugFitWithTheGapBetweenThem) {
    const Made flush = make(on_a_pot({{"gap", "0.1 mm"}}));
    ASSERT_EQ(flush.says(), "");
    ASSERT_EQ(flush.part().bodies.size(), 2u);
    // The wall loses the disc as deep as it is sunk: on a cylinder its inner layers are shorter by (R - t) / R.
    const double R = 20, depth = 1.2, share = (R - depth / 2) / R;
    const double pot = mass_properties(make(json::array({on_a_pot(json::object())[0]})).body(0).mesh()).volume_mm3;
    EXPECT_NEAR(flush.body(0).mass().volume_mm3, pot - pi * 16 * depth * share, 0.6);
    // The plug: smaller by the gap all round and below, flush above.
    const double high = depth - 0.1, middle = (R - high / 2) / R;
    EXPECT_NEAR(flush.body(1).mass().volume_mm3, pi * 3.9 * 3.9 * high * middle, 0.4);
    EXPECT_NEAR(closest_pair(DistanceTree(flush.body(0).mesh()), DistanceTree(flush.body(1).mesh()), 5).distance_mm,
                0.1, 0.025);
    double out = 0;
    for (const Vec3& v : flush.body(1).mesh().vertices) out = std::max(out, v.head<2>().norm());
    EXPECT_NEAR(out, R, 0.03) << "flush with the wall";
    const Made unsaid = make(on_a_pot({{"gap", "0.1 mm"}, {"sunk", "0 mm"}}));
    EXPECT_NEAR(unsaid.volume(), flush.volume(), 1e-9) << "as deep as it is high where nothing else is said";
    const Made proud = make(on_a_pot({{"gap", "0.2 mm"}, {"proud", "0.6 mm"}}));
    ASSERT_EQ(proud.says(), "");
    out = 0;
    for (const Vec3& v : proud.body(1).mesh().vertices) out = std::max(out, v.head<2>().norm());
    EXPECT_NEAR(out, R + 0.6, 0.03);
}

TEST(InlayOnRoundWalls, WhatCannotBeLetInIsSaid) {
    const Made above = make(on_a_pot({{"sunk", "-0.5 mm"}}));
    EXPECT_NE(above.says().find("does not reach into the wall"), std::string::npos) << above.says();
    const Made low = make(on_a_pot({{"proud", "-1.15 mm"}}));
    EXPECT_NE(low.says().find("Nothing is left of a plug"), std::string::npos) << low.says();
    const Made wide = make(on_a_pot({{"gap", "4.5 mm"}}));
    EXPECT_NE(wide.says(), "");
    const Made tight = make(on_a_pot({{"gap", "0 mm"}}));
    EXPECT_EQ(tight.says(), "");
}
