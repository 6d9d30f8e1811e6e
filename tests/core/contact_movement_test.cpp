// Contacts that must move: said so until they were moved, and led along the way their step declares.
#include "made_project.h"
#include "project/contact_movement.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// A flask with lugs and a cap whose groove begins at the lugs' height `groove_z` and angle.
Made twist_lock(const json& lugs = json::object(), const json& groove = json::object()) {
    json on{{"radius", 18}, {"depth", 2}, {"width", 4}, {"at_z", 8}};
    json in = on;
    on.update(lugs);
    in.update({{"legs", "turn -50, slide 14"}, {"fit", "0.35 mm"}});
    in.update(groove);
    return make_parts(
        {{"Flask", json::array({step("cylinder", {{"diameter", 36}, {"height", 16}}), step("lock_lugs", on)})},
         {"Cap", json::array({step("cylinder", {{"diameter", 48}, {"height", 18}}),
                              step("cylinder", {{"diameter", 36.7}, {"height", 30}, {"at_z", -5}, {"does", "cut"}}),
                              step("lock_groove", in)})}});
}

ContactResult only_contact(const Made& made) {
    ContactLedger ledger;
    auto all = ledger.contacts(made.evaluation);
    EXPECT_EQ(all.size(), 1u);
    return all.empty() ? ContactResult() : all[0];
}

Led led_by(const Made& made, const ContactResult& contact, const KeptMovement& movement) {
    auto outcome = run_movement(made.evaluation, movement);
    EXPECT_TRUE(outcome) << (outcome ? "" : outcome.error().text());
    return outcome ? led(made.evaluation, contact, {&*outcome}) : Led::NotNeeded;
}

} // namespace

TEST(ContactMovement, ATwistLockIsLedAlongItsOwnWay) {
    Made made = twist_lock();
    ASSERT_EQ(made.says(), "");
    ContactResult contact = only_contact(made);
    ASSERT_EQ(contact.state, FitState::Right);
    EXPECT_EQ(led(made.evaluation, contact, {}), Led::NotYet);
    EXPECT_EQ(led_words(Led::NotYet), "right as it stands, not yet moved");
    ASSERT_TRUE(has_way(*made.project, contact));
    auto movement = movement_along_way(made.evaluation, contact);
    ASSERT_TRUE(movement) << movement.error().text();
    // The flask's box is the smaller one: it is led as the groove says.
    EXPECT_EQ(movement->moving, "Flask");
    EXPECT_EQ(movement->still, "Cap");
    EXPECT_EQ(movement->legs, "turn -50, slide 14");
    EXPECT_EQ(led_by(made, contact, *movement), Led::Free);
    movement->legs = "slide 14";
    EXPECT_EQ(led_by(made, contact, *movement), Led::Binds);
    EXPECT_EQ(led_words(Led::Binds), "right as it stands, touches when moved");
}

TEST(ContactMovement, WhatStandsAtTheEndOfItsGrooveIsLedBackOut) {
    // The lugs are drawn where they lock: the groove begins 14 below and 50 degrees on; the second of three lugs is
    // meant as well as the first.
    for (double another : {0.0, 120.0}) {
        Made made = twist_lock(json::object(), {{"at_z", -6}, {"angle", 50 + another}, {"legs", "slide 14, turn -50"}});
        ASSERT_EQ(made.says(), "");
        ContactResult contact = only_contact(made);
        auto movement = movement_along_way(made.evaluation, contact);
        ASSERT_TRUE(movement) << movement.error().text();
        EXPECT_EQ(movement->legs, "turn 50, slide -14");
        EXPECT_EQ(led_by(made, contact, *movement), Led::Free);
    }
}

TEST(ContactMovement, TheWayGoesWithThePartsWhereTheyStand) {
    // Both parts lie on their side elsewhere: the same lock, the same way, about the axis as it stands now.
    Made made = twist_lock();
    ProjectPtr now = made.project;
    for (const PartPtr& part : made.project->parts) {
        AssemblyPlace place;
        place.at = {"100 mm", "0 mm", "5 mm"};
        place.turn = {"90 deg", "0 deg", "0 deg"};
        auto next = apply_edit(*now, SetPlace{part->id, place});
        ASSERT_TRUE(next);
        now = next->project;
    }
    made.project = now;
    made.evaluation = Evaluator().evaluate(now).value();
    ContactResult contact = only_contact(made);
    auto movement = movement_along_way(made.evaluation, contact);
    ASSERT_TRUE(movement) << movement.error().text();
    auto path = movement_path(*movement, {});
    ASSERT_TRUE(path);
    EXPECT_NEAR(std::fabs(path->axis.y()), 1, 1e-9);
    EXPECT_EQ(led_by(made, contact, *movement), Led::Free);
}

TEST(ContactMovement, WhatDoesNotStandOnTheWaySaysSo) {
    Made beside = twist_lock({{"at_z", 12}});
    ASSERT_EQ(beside.says(), "");
    auto movement = movement_along_way(beside.evaluation, only_contact(beside));
    ASSERT_FALSE(movement);
    EXPECT_NE(movement.error().sentence.find("4.00 mm beside"), std::string::npos) << movement.error().text();
    Made made = twist_lock({{"at_x", 3}});
    auto off = movement_along_way(made.evaluation, only_contact(made));
    ASSERT_FALSE(off);
    EXPECT_NE(off.error().sentence.find("axis"), std::string::npos);
    Made plain = make_parts({{"Body", {block(30, 30, 10), step("cut_with", {{"tool", "Peg"}, {"fit", "slide"}})}},
                             {"Peg", json::array({step("cylinder", {{"diameter", 10}, {"height", 20}})})}});
    EXPECT_FALSE(has_way(*plain.project, only_contact(plain)));
    EXPECT_FALSE(movement_along_way(plain.evaluation, only_contact(plain)));
}

TEST(ContactMovement, OnlyFitsThatMoveAskForIt) {
    for (auto [fit, asks] : {std::pair{"press", false},
                             {"snug", false},
                             {"slide", true},
                             {"loose", true},
                             {"0.1 mm", false},
                             {"0.5 mm", true}}) {
        Made made = make_parts({{"Body", {block(30, 30, 10), step("cut_with", {{"tool", "Peg"}, {"fit", fit}})}},
                                {"Peg", json::array({step("prism", {{"sides", 6}, {"across", 10}, {"height", 20}})})}});
        ASSERT_EQ(made.says(), "") << fit;
        ContactResult contact = only_contact(made);
        if (contact.state != FitState::Right) {
            EXPECT_STREQ(fit, "press");
            continue;
        }
        EXPECT_EQ(must_move(*made.project, contact), asks) << fit;
        if (!asks) continue;
        // A hexagon cannot turn in its own pocket, but lifts out; one way that is free is enough.
        KeptMovement turn, lift;
        turn.moving = lift.moving = "Peg";
        turn.to = "30 deg";
        lift.kind = "slide", lift.from = "0 mm", lift.to = "15 mm", lift.step = "1 mm";
        EXPECT_EQ(led_by(made, contact, turn), Led::Binds) << fit;
        EXPECT_EQ(led_by(made, contact, lift), Led::Free) << fit;
        auto one = run_movement(made.evaluation, turn), other = run_movement(made.evaluation, lift);
        EXPECT_EQ(led(made.evaluation, contact, {&*one, &*other}), Led::Free);
        // A movement of what stands elsewhere says nothing of this contact.
        other->still = {"Somebody"};
        EXPECT_EQ(led(made.evaluation, contact, {&*other}), Led::NotYet);
    }
}

TEST(ContactMeasure, TheLargestGapIsOfSurfacesThatFaceEachOther) {
    // A stub 0.3 inside a deep square pocket open above it: the pocket's walls above the stub face nobody.
    const MeasuredBody stub(box_mesh({-5, -5, 0.3}, {5, 5, 6}));
    TriMesh walls = box_mesh({-10, -10, -5}, {10, 10, 0});
    append(walls, box_mesh({5.3, -10, 0}, {10, 10, 30}));
    const MeasuredBody host(walls);
    auto figures = facing_figures(facing_samples(host, {}, stub, {.reach_mm = 3, .spacing_mm = 0.2}), {});
    ASSERT_TRUE(figures);
    EXPECT_NEAR(figures->max_mm, 0.3, 0.1); // the wall just above the stub's edge still sees it
    EXPECT_LT(figures->max_mm, 0.3 / 0.8 + 1e-6);
}

TEST(ContactMeasure, MirrorEqualArmsReadTheSame) {
    // Two arms, one either side of a post, 0.4 away; one is made before the post, one after.
    json post = step("cylinder", {{"diameter", 12}, {"height", 8}, {"does", "new"}}, "post");
    auto bar = [](double side, const char* name) {
        return step("block", {{"size_x", 6}, {"size_y", 20}, {"size_z", 8}, {"at_x", side * 9.4}, {"does", "new"}},
                    name);
    };
    Made made = make(json::array({bar(-1, "left"), post, bar(1, "right")}));
    ASSERT_EQ(made.says(), "");
    ContactLedger ledger;
    auto contacts = ledger.contacts(made.evaluation);
    ASSERT_EQ(contacts.size(), 2u);
    EXPECT_NEAR(contacts[0].gap->min_mm, contacts[1].gap->min_mm, 0.01) // the round's facets differ
    ;
    EXPECT_NEAR(*contacts[0].gap->max_mm, *contacts[1].gap->max_mm, 0.01);
    EXPECT_NEAR(contacts[0].facing->mean_mm, contacts[1].facing->mean_mm, 0.01);
    EXPECT_NEAR(contacts[0].facing->area_mm2, contacts[1].facing->area_mm2, 1);
}

TEST(ContactMeasure, AnOverlapIsShownWhereItIs) {
    // A block lies flush on a plate 40 long and its lip runs 0.5 into a rib at the far end.
    auto plate = combine_meshes(Operation::Join, {box_mesh({0, 0, 0}, {40, 10, 5}), box_mesh({38, 0, 4}, {40, 10, 9})});
    ASSERT_TRUE(plate);
    const MeasuredBody low(*plate), high(box_mesh({0, 0, 5}, {38.5, 10, 8}));
    auto gap = measure_gap(high, low, 1);
    ASSERT_TRUE(gap);
    EXPECT_NEAR(gap->overlap_mm3, 0.5 * 10 * 3, 1e-6);
    EXPECT_NEAR(gap->at_a.x(), 38.25, 0.26);
    EXPECT_GT(gap->at_a.z(), 5 - 1e-9);
    EXPECT_EQ(gap->at_a, gap->at_b);
}

TEST(ContactMovement, AThreadIsScrewedOffByItsOwnPitch) {
    // A cup's thread and a cap cut with it at 0.4, which ends above the thread's foot: turned by its pitch it comes
    // off, by another it binds.
    for (const char* hand : {"right", "left"}) {
        const json thread = step("thread",
                                 {{"size", ""},
                                  {"diameter", 24},
                                  {"pitch", 3},
                                  {"length", 9},
                                  {"profile", "round"},
                                  {"hand", hand},
                                  {"gap", 0}},
                                 "thread");
        const Made made = make_parts(
            {{"Cup",
              json::array({step("cylinder", {{"diameter", 20}, {"height", 36}, {"at_z", -27}}, "wall"), thread})},
             {"Cap", json::array({step("cylinder", {{"diameter", 34}, {"height", 7}, {"at_z", 4}}),
                                  step("cut_with", {{"tool", "Cup"}, {"fit", "0.4 mm"}})})}});
        ASSERT_EQ(made.says(), "") << hand;
        const ContactResult contact = only_contact(made);
        ASSERT_EQ(contact.state, FitState::Right) << hand << " " << contact.gap->min_mm;
        ASSERT_TRUE(has_way(*made.project, contact));
        auto movement = movement_along_way(made.evaluation, contact);
        ASSERT_TRUE(movement) << movement.error().text();
        const bool left = std::string(hand) == "left";
        EXPECT_EQ(movement->kind, "screw");
        EXPECT_EQ(movement->moving, "Cap");
        EXPECT_EQ(movement->pitch, left ? "-3 mm" : "3 mm");
        EXPECT_EQ(movement->to, left ? "-1080" : "1080");
        if (left) continue; // the same the other way round: seconds
        EXPECT_EQ(led_by(made, contact, *movement), Led::Free);
        movement->pitch = "2 mm";
        movement->to = "270";
        EXPECT_EQ(led_by(made, contact, *movement), Led::Binds) << "by another pitch";
    }
}
