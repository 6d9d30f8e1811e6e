// Bought pieces in their true form, and holes told by what goes in: against the standards' sizes, closed formulas of
// volumes, and measured gaps.
#include "hardware/piece.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/contact_ledger.h"
#include "project/hardware_list.h"
#include <map>
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

double frustum(double r1, double r2, double h) {
    return pi * h * (r1 * r1 + r1 * r2 + r2 * r2) / 3;
}
double hexagon(double flats, double high) {
    return std::sqrt(3.0) / 2 * flats * flats * high;
}
/// In the middle of a block of 40 x 40: a face's coordinates begin at its corner.
json hole(json fields, double middle = 20) {
    fields["on"] = "top of b";
    for (const char* at : {"at_x", "at_y"}) fields[at] = middle + fields.value(at, 0.0);
    return step("hole_for", fields, "hole");
}
/// What a hole takes out of a block of 40 x 40 x 20.
double taken(const json& fields) {
    const Made m = make({block(40, 40, 20), hole(fields)});
    EXPECT_EQ(m.says(), "") << fields.dump();
    return 40 * 40 * 20 - m.volume();
}

} // namespace

TEST(Piece, WordsGiveFormsOfTheStandardsSizes) {
    // ISO 4762 M4: head 7.22 knurled by 4; ISO 4032 M5: 8 across flats, 4.7 high; ISO 7089 M5: 5.3, 10, 1.
    const auto screw = piece_called("M4 x 16 socket head");
    ASSERT_TRUE(screw) << screw.error().text();
    EXPECT_EQ(screw->kind, Piece::Kind::Screw);
    EXPECT_DOUBLE_EQ(screw->length_mm, 16);
    EXPECT_DOUBLE_EQ(screw->head_high_mm, 4);
    EXPECT_NEAR(screw->head_mm, 7.22, 1e-9);
    const auto nut = piece_called("M5 nut");
    ASSERT_TRUE(nut);
    EXPECT_EQ(nut->kind, Piece::Kind::Nut);
    EXPECT_DOUBLE_EQ(nut->flats_mm, 8);
    EXPECT_DOUBLE_EQ(nut->length_mm, 4.7);
    const auto washer = piece_called("M5 washer");
    ASSERT_TRUE(washer);
    EXPECT_DOUBLE_EQ(washer->bore_mm, 5.3);
    EXPECT_DOUBLE_EQ(washer->across_mm, 10);
    const auto bearing = piece_called("608 bearing");
    ASSERT_TRUE(bearing);
    EXPECT_DOUBLE_EQ(bearing->across_mm, 22);
    EXPECT_DOUBLE_EQ(bearing->bore_mm, 8);
    EXPECT_DOUBLE_EQ(bearing->length_mm, 7);
    EXPECT_FALSE(piece_called("iso 273 m5")) << "a hole is no thing";
    const auto none = piece_called("M3.7 nut");
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().text().find("nearest"), std::string::npos) << none.error().text();
    // ISO 273: M3 3.2, 3.4, 3.6.
    EXPECT_DOUBLE_EQ(clearance_hole(3, "close"), 3.2);
    EXPECT_DOUBLE_EQ(clearance_hole(3, "medium"), 3.4);
    EXPECT_DOUBLE_EQ(clearance_hole(3, "free"), 3.6);
}

TEST(Bought, HasTheVolumeOfItsForm) {
    const Made screw = make(json::array({step("bought", {{"piece", "M4 x 16 socket head"}})}));
    ASSERT_EQ(screw.says(), "");
    EXPECT_NEAR(screw.volume(), pi * 4 * 16 + pi * 3.61 * 3.61 * 4, 1e-3);
    EXPECT_NEAR(screw.part().box.min().z(), -16, 1e-6);
    EXPECT_NEAR(screw.part().box.max().z(), 4, 1e-6);
    const Made sunk = make(json::array({step("bought", {{"piece", "M3 x 12 countersunk"}})}));
    ASSERT_EQ(sunk.says(), "");
    EXPECT_NEAR(sunk.volume(), frustum(3.36, 1.5, 1.86) + pi * 2.25 * (12 - 1.86), 1e-3) << "12 with its head";
    const Made nut = make(json::array({step("bought", {{"piece", "M5 nut"}})}));
    ASSERT_EQ(nut.says(), "");
    EXPECT_NEAR(nut.volume(), hexagon(8, 4.7) - pi * 6.25 * 4.7, 1e-3);
    const Made bolt = make(json::array({step("bought", {{"piece", "M6 hexagon head"}, {"length", 20}})}));
    ASSERT_EQ(bolt.says(), "") << "its length by a number";
    EXPECT_NEAR(bolt.volume(), hexagon(10, 4) + pi * 9 * 20, 1e-3);
    EXPECT_NE(make(json::array({step("bought", {{"piece", "M6 hexagon head"}})})).says().find("How long"),
              std::string::npos);
}

TEST(HoleFor, AScrewClearsBitesAndHasRoomForItsHead) {
    // Through 20: the hole of ISO 273, and a cone of 90 degrees from 0.1 beyond the theoretical head.
    const double r = 1.7, top = 3.36 + 0.1, cone = top - r;
    EXPECT_NEAR(taken({{"piece", "M3 x 12 countersunk"}}), pi * r * r * (20 - cone) + frustum(r, top, cone), 0.02);
    EXPECT_NEAR(taken({{"piece", "M3 x 12 countersunk"}, {"fit", "free"}, {"head", "on the face"}}),
                pi * 1.8 * 1.8 * 20, 0.01);
    // A cylinder head 4 high, 0.2 round it; sunk by 2 more.
    const double head = 3.61 + 0.2;
    EXPECT_NEAR(taken({{"piece", "M4 x 16 socket head"}}), pi * (2.25 * 2.25 * 16 + head * head * 4), 0.02);
    EXPECT_NEAR(taken({{"piece", "M4 x 16 socket head"}, {"head", "sunk"}, {"skin", "2 mm"}}),
                pi * (2.25 * 2.25 * 14 + head * head * 6), 0.02);
    // It bites: as drilled for M3, 2.5, its length and a millimetre.
    EXPECT_NEAR(taken({{"piece", "M3 x 12 socket head"}, {"how", "bites"}}), pi * 1.25 * 1.25 * 13, 0.01);
    EXPECT_NEAR(taken({{"piece", "M3 x 12 socket head"}, {"how", "bites"}, {"deep", 8}, {"ease", "0.1 mm"}}),
                pi * 1.35 * 1.35 * 8, 0.01);
}

TEST(HoleFor, NutsAndMagnetsLieInPocketsAsPeoplePrintThem) {
    // Common practice, no published source: 8.5 x 4.5 for a nut of 8 x 4, 7.2 x 2.1 for a magnet of 7 x 2.
    EXPECT_NEAR(taken({{"piece", "din 934 M5 nut"}, {"how", "seats"}}), hexagon(8.5, 4.5), 0.02);
    EXPECT_NEAR(taken({{"piece", "magnet 7x2"}, {"how", "seats"}}), pi * 3.6 * 3.6 * 2.1, 0.02);
    // Closed over by a skin of 0.4 it is a void inside.
    const Made closed =
        make({block(40, 40, 20), hole({{"piece", "magnet 7x2"}, {"how", "seats"}, {"skin", "0.4 mm"}})});
    ASSERT_EQ(closed.says(), "");
    EXPECT_NEAR(40 * 40 * 20 - closed.volume(), pi * 3.6 * 3.6 * 2.1, 0.02);
    EXPECT_NEAR(closed.part().box.max().z(), 20, 1e-9);
    // A square nut slid in from the side: the slot takes what lies beyond half the pocket.
    const double across = 5.5 + 0.5, high = 1.8 + 0.5;
    EXPECT_NEAR(taken({{"piece", "M3 square nut"}, {"how", "seats"}, {"skin", "3 mm"}, {"slot", "20 mm"}}),
                (across * across + (20 - across / 2) * across) * high, 0.05);
}

TEST(HoleFor, TheScrewItIsForFoulsNothingAndLiesFlush) {
    Made m = make_parts({{"Floor", {block(30, 30, 4), hole({{"piece", "M3 x 12 countersunk"}}, 15)}},
                         {"Screw", json::array({step("bought", {{"piece", "M3 x 12 countersunk"}, {"at_z", 4}})})}});
    ASSERT_EQ(m.says(), "");
    auto next = apply_edit(*m.project, SetStandIn{m.project->parts[1]->id, true});
    ASSERT_TRUE(next);
    next = apply_edit(*next->project, SetContact{"Floor", "Screw", "0.1 mm"});
    ASSERT_TRUE(next) << next.error().text();
    auto made = Evaluator().evaluate(next->project);
    ASSERT_TRUE(made);
    const auto contacts = ContactLedger().contacts(*made);
    ASSERT_EQ(contacts.size(), 1u);
    ASSERT_TRUE(contacts[0].gap);
    EXPECT_NEAR(contacts[0].gap->min_mm, 0.1 / std::sqrt(2.0), 0.01) << "beside the cone";
    EXPECT_NEAR(made->parts[1].box.max().z(), made->parts[0].box.max().z(), 1e-6) << "its head is level with the floor";
}

TEST(HoleFor, WhatHasNoRoomIsSaidAndTheBodyStays) {
    auto says = [](const json& steps) { return make(steps).says(); };
    // A cone of 1.8 in a plate of 1.5; a magnet of 5 in 4.
    EXPECT_NE(
        says({block(30, 30, 1.5), hole({{"piece", "M3 x 12 countersunk"}}, 15)}).find("the material there 1.5 mm"),
        std::string::npos);
    EXPECT_NE(says({block(30, 30, 2), hole({{"piece", "din 934 M5 nut"}, {"how", "seats"}}, 15)}).find("4.5 mm deep"),
              std::string::npos);
    // An insert of M3 in a boss of 6: the wall is named.
    const std::string thin = says({step("cylinder", {{"diameter", 6}, {"height", 12}}, "b"),
                                   hole({{"piece", "M3 insert"}, {"how", "seats"}}, 0)});
    EXPECT_NE(thin.find("The wall round it is"), std::string::npos) << thin;
    EXPECT_EQ(says({step("cylinder", {{"diameter", 10}, {"height", 12}}, "b"),
                    hole({{"piece", "M3 insert"}, {"how", "seats"}}, 0)}),
              "");
    EXPECT_NE(says({block(30, 30, 10), hole({{"piece", "M5 nut"}}, 15)}).find("Choose seats"), std::string::npos);
    EXPECT_NE(
        says({block(30, 30, 10), hole({{"piece", "M3 x 8 socket head"}, {"how", "seats"}}, 15)}).find("Choose clears"),
        std::string::npos);
    EXPECT_NE(says({block(30, 30, 10), hole({{"piece", "teapot"}}, 15)}).find("teapot"), std::string::npos);
    EXPECT_NE(says({block(30, 30, 10), hole({{"piece", "M3 x 12 countersunk"}, {"at_x", 100}})}).find("nothing to cut"),
              std::string::npos);
    EXPECT_NE(says({block(30, 30, 10), step("hole_for", {{"piece", "M3 x 12 countersunk"}})}).find("nothing to cut"),
              std::string::npos)
        << "on the ground it goes down from the part's foot";
    const Made failed = make({block(30, 30, 1.5), hole({{"piece", "M3 x 12 countersunk"}}, 15)});
    EXPECT_NEAR(failed.volume(), 30 * 30 * 1.5, 1e-9) << "the last good body stays";
}

TEST(HoleFor, IsRepeatedRoundACircleAndShrinksWithAGrownPart) {
    const Made m =
        make({block(40, 40, 6), hole({{"piece", "M3 x 12 socket head"}, {"head", "on the face"}, {"at_x", 12}}),
              step("repeat_round", {{"steps", "hole"}, {"count", 3}})});
    ASSERT_EQ(m.says(), "");
    EXPECT_NEAR(40 * 40 * 6 - m.volume(), 3 * pi * 1.7 * 1.7 * 6, 0.02);
    // Cut out of another part with a gap, the plate is larger and its hole smaller by it.
    const Made host =
        make_parts({{"Host", {block(60, 60, 20, "h"), step("cut_with", {{"tool", "Plate"}, {"fit", "0.3 mm"}})}},
                    {"Plate", {block(40, 40, 6), hole({{"piece", "M6 x 12 socket head"}, {"head", "on the face"}})}}});
    ASSERT_EQ(host.says(), "");
    EXPECT_NEAR(60 * 60 * 20 - host.volume(0), 40.6 * 40.6 * 6.3 - pi * 3.0 * 3.0 * 6.3, 1.0) << "from z 0, 6.3 high";
}

namespace {
/// A lid of 6 on a base of 14, a tenth between them, joined by a screw from the lid's top.
Made joined(json fields) {
    fields["on"] = "top of b";
    fields["at_x"] = fields["at_y"] = 20;
    return make(
        {block(40, 40, 6),
         step("block", {{"size_x", 40}, {"size_y", 40}, {"size_z", 14}, {"at_z", -14.1}, {"does", "new"}}, "base"),
         step("screw_joint", fields, "joint")});
}
} // namespace

TEST(ScrewJoint, MakesEveryHoleByWhatPassesThere) {
    const double lid = 40 * 40 * 6, base = 40 * 40 * 14;
    // M4 x 16, its head of 4 flush: the seat is 4 below the top, the tip 20.
    const Made bites = joined({{"screw", "M4 x 16 socket head"}});
    ASSERT_EQ(bites.says(), "");
    ASSERT_EQ(bites.part().bodies.size(), 2u);
    const double head = 3.61 + 0.2;
    EXPECT_NEAR(lid - bites.body(0).mass().volume_mm3, pi * (head * head * 4 + 2.25 * 2.25 * 2), 0.05);
    // The hole it bites: 3.3 across (ISO 2306).
    EXPECT_NEAR(base - bites.body(1).mass().volume_mm3, pi * 1.65 * 1.65 * 14, 0.05)
        << "20 of screw and a millimetre: all through";
    // On the face, a nut below: 7 flats and a quarter round it, 3.2 high and a half.
    const Made nut = joined({{"screw", "M4 x 25 socket head"}, {"head", "on the face"}, {"held_by", "a nut"}});
    ASSERT_EQ(nut.says(), "");
    EXPECT_NEAR(lid - nut.body(0).mass().volume_mm3, pi * 2.25 * 2.25 * 6, 0.02);
    const double pocket = 3.2 + 0.5;
    EXPECT_NEAR(base - nut.body(1).mass().volume_mm3, hexagon(7.5, pocket) + pi * 2.25 * 2.25 * (14 - pocket), 0.05);
    // A heat-set insert where the screw comes in.
    const auto insert = piece_called("M4 insert");
    ASSERT_TRUE(insert);
    const Made melted = joined({{"screw", "M4 x 16 socket head"}, {"head", "on the face"}, {"held_by", "an insert"}});
    ASSERT_EQ(melted.says(), "");
    const double core = insert->core_mm / 2, deep = insert->length_mm + 1, tip = 16 + 1 - 6.1;
    EXPECT_NEAR(base - melted.body(1).mass().volume_mm3,
                pi * (core * core * deep + 2.25 * 2.25 * std::max(0.0, tip - deep)), 0.05);
}

TEST(ScrewJoint, SaysWhatDoesNotHold) {
    EXPECT_NE(joined({{"screw", "M4 x 12 socket head"}, {"head", "on the face"}, {"held_by", "a nut"}})
                  .says()
                  .find("short of the nut's end"),
              std::string::npos);
    EXPECT_NE(joined({{"screw", "M3 x 4 socket head"}, {"head", "on the face"}}).says().find("one body only"),
              std::string::npos);
    EXPECT_NE(joined({{"screw", "M4 nut"}}).says().find("joins nothing"), std::string::npos);
    EXPECT_NE(joined({{"screw", "M4 socket head"}}).says().find("How long"), std::string::npos);
    const Made weak = joined({{"screw", "M4 x 12 socket head"}, {"head", "on the face"}});
    EXPECT_EQ(weak.says(), "");
    EXPECT_NE(weak.step(2).says.find("less than twice"), std::string::npos) << weak.step(2).says;
}

TEST(HardwareList, CountsWhatSentencesNameOnce) {
    Made m = make_parts(
        {{"Housing",
          {block(40, 40, 8),
           step("hole_for", {{"piece", "M3 x 12 countersunk"}, {"on", "top of b"}, {"at_x", 32}, {"at_y", 20}}, "hole"),
           step("repeat_round", {{"steps", "hole"}, {"count", 4}}),
           step("block", {{"size_x", 40}, {"size_y", 40}, {"size_z", 14}, {"at_z", -14.1}, {"does", "new"}}, "base"),
           step("screw_joint", {{"screw", "M4 x 25 socket head"},
                                {"head", "on the face"},
                                {"held_by", "a nut"},
                                {"on", "top of b"},
                                {"at_x", 20},
                                {"at_y", 20}})}},
         {"Screw", json::array({step("bought", {{"piece", "M3 x 12 countersunk"}})})}});
    ASSERT_EQ(m.says(), "");
    auto next = apply_edit(*m.project, SetQuantity{m.project->parts[0]->id, 2});
    ASSERT_TRUE(next);
    m.evaluation.project = next->project;
    std::map<std::string, size_t> count;
    for (const HardwareCount& piece : hardware_list(m.evaluation)) count[piece.name] = piece.count;
    EXPECT_EQ(count.size(), 3u);
    EXPECT_EQ(count["M3 x 12 countersunk socket screw, ISO 10642"], 8u)
        << "two housings of four; the one drawn is one of them";
    EXPECT_EQ(count["M4 x 25 socket head cap screw, ISO 4762"], 2u);
    EXPECT_EQ(count["M4 hexagon nut, style 1, ISO 4032"], 2u);
}
