// Ridges, grooves, teeth, flutes and knurls: volumes against Pappus and prisms in closed form, exact where they can be,
// and what they refuse.
#include "made_project.h"
#include "mesh/knurl_mesh.h"
#include "mesh/soundness.h"
#include "project/contact_ledger.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

json rod(double diameter, double high) {
    return step("cylinder", {{"diameter", diameter}, {"height", high}}, "rod");
}
Made ridged(const json& body, json fields, const std::string& face) {
    fields["face"] = face;
    return make({body, step("ridges", fields, "grip")});
}
/// What the ridges add to a body.
double added(const json& body, const json& fields, const std::string& face = "side of rod") {
    const Made plain = make(json::array({body})), made = ridged(body, fields, face);
    EXPECT_EQ(made.says(), "") << fields.dump();
    EXPECT_EQ(made.part().bodies.size(), 1u);
    EXPECT_TRUE(is_closed(made.body().mesh())) << fields.dump();
    return made.volume() - plain.volume();
}

} // namespace

TEST(Ridges, RingsByPappus) {
    // A triangle of height h and foot 2 h at 45 degrees, turned at its centroid: 2 pi (R + h / 3) h^2 each.
    const double h = 0.8, one = 2 * pi * (10 + h / 3) * h * h;
    const json rings{{"run", "across"}, {"high", h}, {"apart", 3}, {"margin", 1}};
    EXPECT_NEAR(added(rod(20, 20), rings), 6 * one, 1e-2) << "six go into 18 mm";
    json grooves = rings;
    grooves["does"] = "cut in";
    EXPECT_NEAR(added(rod(20, 20), grooves), -6 * 2 * pi * (10 - h / 3) * h * h, 1e-2);
    // Flat crests: two triangles and a rectangle a third of the spacing wide.
    json flat = rings;
    flat["shape"] = "flat";
    EXPECT_NEAR(added(rod(20, 20), flat), 6 * (one + 2 * pi * (10 + h / 2) * h * 1), 1e-2);
    EXPECT_TRUE(ridged(rod(20, 20), rings, "side of rod").body().is_exact());
}

TEST(Ridges, AlongARodAndInAHole) {
    // 21 grooves of depth 0.8 and mouth 1.6 in a rod of 20, on its chords: within 3 % of as many flat prisms.
    const double h = 0.8;
    const json grooves{{"run", "along"}, {"high", h}, {"apart", 3}, {"margin", 0}, {"does", "cut in"}};
    EXPECT_NEAR(added(rod(20, 20), grooves) / (-21 * h * h * 20), 1, 0.03);
    json raised = grooves;
    raised["does"] = "raised";
    raised["margin"] = 1;
    // Two ends at 45 degrees take a pyramid of h^3 / 3 each off every ridge's prism.
    EXPECT_NEAR(added(rod(20, 20), raised) / (21 * (h * h * 18 - 2 * h * h * h * 2 / 3)), 1, 0.04);
    json flutes = grooves;
    flutes["shape"] = "round";
    const double half = 0.9 * (2 * pi * 10 / 21) / 2;
    EXPECT_NEAR(added(rod(20, 20), flutes) / (-21 * pi / 2 * half * h * 20), 1, 0.05);
    const json hole =
        json::array({block(40, 40, 20), step("cylinder", {{"diameter", 20}, {"height", 20}, {"does", "cut"}}, "hole")});
    const double plain = make(hole).volume();
    for (const char* does : {"raised", "cut in"}) {
        json fields{
            {"face", "side of hole"}, {"run", "along"}, {"high", h}, {"apart", 3}, {"margin", 0}, {"does", does}};
        json steps = hole;
        steps.push_back(step("ridges", fields));
        const Made made = make(steps);
        ASSERT_EQ(made.says(), "") << does;
        const double sign = std::string(does) == "raised" ? 1 : -1;
        EXPECT_NEAR((made.volume() - plain) / (sign * 21 * h * h * 20), 1, 0.08) << does;
    }
}

TEST(Ridges, TeethOnAFlatFace) {
    // Pointed ones of 1 with a foot of 2 over 38 x 28, ends sloped as well: each a prism less its two ends.
    const json teeth{{"run", "along"}, {"high", 1}, {"apart", 4}, {"margin", 1}};
    const double ridge = 38 - 2 * 1.0 / 3 * 1; // at 45 degrees an end takes h / 3 of the mean length at each side
    EXPECT_NEAR(added(block(40, 30, 10), teeth, "top of b") / (7 * ridge), 1, 0.02);
    json across = teeth;
    across["run"] = "across";
    EXPECT_NEAR(added(block(40, 30, 10), across, "top of b") / (9 * (28 - 2.0 / 3)), 1, 0.02);
    json cut = teeth;
    cut["does"] = "cut in";
    EXPECT_NEAR(added(block(40, 30, 10), cut, "top of b"), -7 * 38, 0.05);
    EXPECT_NEAR(added(block(40, 30, 10), teeth, "bottom of b"), added(block(40, 30, 10), teeth, "top of b"), 1e-3);
}

TEST(Ridges, AKnurlIsAClosedMeshOfPyramids) {
    // Square pyramids of side a and height a / 2 at 45 degrees: a volume of a / 6 over every square mm.
    KnurlShape shape;
    shape.radius_mm = 10;
    shape.high.y() = 40;
    shape.apart_mm = 2;
    shape.high_mm = 1;
    const auto mesh = knurl_mesh(shape);
    ASSERT_TRUE(mesh);
    EXPECT_TRUE(is_closed(*mesh));
    const double base = pi * (100 - 9.95 * 9.95) * 40;
    EXPECT_NEAR((mass_properties(*mesh).volume_mm3 - base) / (2 * pi * 10 * 40 * 2 / 6), 1, 0.08);
    for (bool round : {true, false})
        for (bool hollow : {true, false})
            for (bool cut : {true, false}) {
                if (hollow && !round) continue;
                KnurlShape any = shape;
                any.round = round;
                any.hollow = hollow;
                any.cut = cut;
                any.high.x() = 30;
                const auto made = knurl_mesh(any);
                ASSERT_TRUE(made);
                EXPECT_TRUE(is_closed(*made)) << round << hollow << cut;
                EXPECT_GT(mass_properties(*made).volume_mm3, 0) << round << hollow << cut;
                EXPECT_EQ(check_soundness(*made).self_intersecting->count, 0u) << round << hollow << cut;
            }
    const json knurl{{"run", "crossed"}, {"high", 0.6}, {"apart", 2.5}};
    EXPECT_GT(added(rod(20, 20), knurl), 50);
    json pits = knurl;
    pits["does"] = "cut in";
    EXPECT_LT(added(rod(20, 20), pits), -50);
    EXPECT_GT(added(block(40, 30, 10), knurl, "top of b"), 50);
    shape.apart_mm = 0.01;
    EXPECT_FALSE(knurl_mesh(shape)) << "too many";
    shape.apart_mm = 100;
    EXPECT_FALSE(knurl_mesh(shape)) << "no room";
}

TEST(Ridges, GapsForFitsReachRoundThem) {
    // A ring that takes a ridged rod at a gap: what is measured is what was wanted.
    for (const char* run : {"along", "across"}) {
        const Made made = make_parts({{"Ring",
                                       {step("cylinder", {{"diameter", 40}, {"height", 20}}),
                                        step("cut_with", {{"tool", "Rod"}, {"fit", "0.5 mm"}})}},
                                      {"Rod", {rod(20, 20), step("ridges", {{"face", "side of rod"}, {"run", run}})}}});
        ASSERT_EQ(made.says(), "") << run;
        EXPECT_LT(made.volume(0) + made.volume(1), pi * 400 * 20) << run;
        ContactLedger ledger;
        const auto contacts = ledger.contacts(made.evaluation);
        ASSERT_EQ(contacts.size(), 1u) << run;
        ASSERT_TRUE(contacts[0].gap) << run;
        EXPECT_NEAR(contacts[0].gap->min_mm, 0.5, 0.03) << run;
    }
}

TEST(Ridges, RefusedInWords) {
    const Made ball = make({step("sphere", {{"diameter", 20}}, "ball"), step("ridges", {{"face", "side of ball"}})});
    EXPECT_NE(ball.says(), "");
    const Made none = make({block(20, 20, 20), step("ridges", json::object())});
    EXPECT_NE(none.says().find("It is not said which face"), std::string::npos) << none.says();
    const Made narrow = ridged(rod(20, 4), {{"margin", 2}}, "side of rod");
    EXPECT_NE(narrow.says().find("margin"), std::string::npos) << narrow.says();
    const Made few = ridged(rod(20, 10), {{"run", "across"}, {"apart", 50}}, "side of rod");
    EXPECT_NE(few.says().find("Not one ridge"), std::string::npos) << few.says();
    const Made steep = ridged(rod(20, 20), {{"run", "across"}, {"high", 2}, {"apart", 2}}, "side of rod");
    EXPECT_EQ(steep.says(), "");
    EXPECT_NE(steep.step(1).says.find("run into each other"), std::string::npos) << steep.step(1).says;
    EXPECT_NEAR(make(json::array({rod(20, 20)})).volume(),
                ridged(rod(20, 20), {{"high", 25}, {"run", "across"}, {"apart", 60}}, "side of rod").volume(), 1e-6)
        << "what failed leaves the body as it was";
}
