// Parts left where their movements led them: an arm of two links stands where the closed formula of its joints says
// (planar arm of two links, forward kinematics: textbook of robotics, from memory), and nothing that is drawn changes.
#include "made_project.h"
#include "project/analysis.h"
#include "project/assembly_order.h"
#include "project/findings.h"
#include "project/seating.h"
#include "project/standing.h"

using namespace lp;
using namespace lp::test;

namespace {

constexpr double upper_mm = 60, fore_mm = 50;

json round(const char* name, double diameter, double height, double x, double z, const char* does) {
    return step("cylinder", {{"diameter", diameter}, {"height", height}, {"at_x", x}, {"at_z", z}, {"does", does}},
                name);
}
json bar(const char* name, double length) {
    return step("block", {{"size_x", length}, {"size_y", 10}, {"size_z", 5}, {"at_x", length / 2}}, name);
}
json turn(const char* moving, double x, const char* from, const char* to, const char* stands) {
    return {{"moving", moving}, {"kind", "turn"}, {"point", {std::to_string(x) + " mm", "0 mm", "0 mm"}},
            {"from", from},     {"to", to},       {"step", "1 deg"},
            {"stands", stands}};
}

/// A post, an arm that turns about it, a forearm seated on the arm's end, a scoop seated on the forearm's; a wall.
json arm(const char* shoulder = "", const char* elbow = "") {
    const json on_arm = json::array({{{"face", "bottom of link"}, {"on", "Arm"}, {"on_face", "top of bar"}},
                                     {{"face", "side of eye"}, {"on", "Arm"}, {"on_face", "side of pin"}}});
    const json on_fore = json::array({{{"face", "bottom of bowl"}, {"on", "Forearm"}, {"on_face", "top of knob"}}});
    json parts = json::array();
    parts.push_back({{"name", "Post"}, {"steps", {round("post", 8, 20, 0, -30, "join")}}});
    parts.push_back({{"name", "Arm"}, {"steps", {bar("bar", upper_mm), round("pin", 6, 8, upper_mm, 5, "join")}}});
    parts.push_back(
        {{"name", "Forearm"},
         {"steps",
          {bar("link", fore_mm), round("eye", 6.5, 5, 0, 0, "cut"), round("knob", 4, 3, fore_mm - 5, 5, "join")}},
         {"place", {{"seats", on_arm}}}});
    parts.push_back(
        {{"name", "Scoop"}, {"steps", {round("bowl", 9, 4, 0, 0, "join")}}, {"place", {{"seats", on_fore}}}});
    return {{"format", "loose-peg"},
            {"version", 1},
            {"parameters", {{"opened", "50 deg"}}},
            {"parts", parts},
            {"movements", {turn("Arm", 0, "-180", "180", shoulder), turn("Forearm", upper_mm, "-170", "170", elbow)}}};
}

ProjectPtr project_of(const json& whole) {
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    return std::make_shared<const Project>(project.value_or(Project{}));
}
Evaluation evaluated(const ProjectPtr& project) {
    auto made = Evaluator().evaluate(project);
    EXPECT_TRUE(made);
    Evaluation result = made.value_or(Evaluation{});
    for (const PartResult& part : result.parts) EXPECT_TRUE(part.all_ok() && !part.place_problem) << part.name;
    return result;
}
Vec3 tip(const Evaluation& made, const Standing& standing) {
    const PartResult& fore = made.parts[2];
    return standing.of(fore.part, 0) * (fore.place * Vec3(fore_mm, 0, 0));
}
Vec3 by_formula(double shoulder_deg, double elbow_deg) {
    const double a = radians(shoulder_deg), b = radians(shoulder_deg + elbow_deg);
    return {upper_mm * std::cos(a) + fore_mm * std::cos(b), upper_mm * std::sin(a) + fore_mm * std::sin(b), 5};
}
Expected<Edited> set_movement(const Project& project, size_t which, const std::string& stands) {
    KeptMovement next = project.movements.at(which);
    next.stands = stands;
    return apply_edit(project, SetMovement{next});
}

} // namespace

TEST(Standing, AnArmOfTwoLinksStandsWhereItsJointsLeaveIt) {
    for (const auto& [shoulder, elbow] :
         {std::pair(0.0, 0.0), {30.0, 0.0}, {0.0, -45.0}, {70.0, 110.0}, {-120.0, 33.0}}) {
        const auto a = std::to_string(shoulder), b = std::to_string(elbow);
        const Evaluation made = evaluated(project_of(arm(a.c_str(), b.c_str())));
        const Standing& standing = standing_of(made);
        EXPECT_LT((tip(made, standing) - by_formula(shoulder, elbow)).norm(), 1e-6) << a << " " << b;
        EXPECT_EQ(standing.words().size(), 2u);
        // What sits on the forearm goes along; the post stays.
        const PartResult& scoop = made.parts[3];
        const Vec3 in_fore = made.parts[2].place * Vec3(fore_mm - 5, 0, 8);
        EXPECT_LT(
            (standing.of(scoop.part, 0) * (scoop.place * Vec3(0, 0, 0)) - standing.of(made.parts[2].part, 0) * in_fore)
                .norm(),
            1e-3)
            << "its middle by facets";
        EXPECT_TRUE(standing.of(made.parts[0].part, 0).isApprox(Transform::Identity(), 0));
    }
}

TEST(Standing, LeftNowhereAllIsAsDrawn) {
    const Evaluation made = evaluated(project_of(arm()));
    EXPECT_TRUE(standing_of(made).as_drawn());
    EXPECT_TRUE(standing_of(made).words().empty());
    for (const PartResult& part : made.parts)
        EXPECT_TRUE(standing_of(made).of(part.part, 0).isApprox(Transform::Identity(), 0));
    const Standing for_a_moment = standing_of(made).with(made.project->movements[0].id, 90);
    EXPECT_LT((tip(made, for_a_moment) - by_formula(90, 0)).norm(), 1e-6);
    EXPECT_TRUE(standing_of(made).as_drawn()) << "that was for a moment";
}

TEST(Standing, DrawersScrewsAndLegsAreLeftByTheirOwnUnits) {
    struct Case {
        const char *kind, *pitch, *legs, *stands;
        Vec3 want; ///< of the place 10, 0, 0, about and along z
    };
    const double s = std::sqrt(0.5);
    for (const Case& c :
         {Case{"slide", "0 mm", "", "12.5", {10, 0, 12.5}}, Case{"slide", "0 mm", "", "1 in", {10, 0, 25.4}},
          Case{"screw", "4 mm", "", "90 deg", {0, 10, 1}},
          Case{"legs", "0 mm", "slide 6, turn 90", "1.5", {10 * s, 10 * s, 6}}}) {
        json whole = arm();
        json& movement = whole["movements"][0];
        movement.update({{"kind", c.kind}, {"pitch", c.pitch}, {"legs", c.legs}, {"stands", c.stands}});
        if (std::string(c.kind) == "slide") movement.update({{"from", "0 mm"}, {"to", "30 mm"}, {"step", "1 mm"}});
        const Evaluation made = evaluated(project_of(whole));
        const PartResult& part = made.parts[1];
        EXPECT_LT((standing_of(made).of(part.part, 0) * Vec3(10, 0, 0) - c.want).norm(), 1e-6) << c.kind;
    }
}

TEST(Standing, OneBodyOfAPartMovesAndWhatSitsOnThatBodyGoesAlong) {
    // Two leaves printed as one part; a knob on the second, a foot on the first.
    auto seated = [](const char* name, const char* face, const char* on) {
        return json{
            {"name", name},
            {"steps", {round(face, 4, 3, 0, 0, "join")}},
            {"place", {{"seats", {{{"face", std::string("bottom of ") + face}, {"on", "Hinge"}, {"on_face", on}}}}}}};
    };
    json left = bar("left", 20), right = bar("right", 20);
    left["fields"]["at_x"] = -20;
    right["fields"].update({{"at_x", 20}, {"does", "new"}});
    json whole = arm();
    whole["parts"] = {{{"name", "Hinge"}, {"steps", {left, right}}},
                      seated("Knob", "knob", "top of right"),
                      seated("Foot", "foot", "top of left")};
    whole["movements"] = {turn("Hinge/right", 0, "0", "180", "90")};
    const Evaluation made = evaluated(project_of(whole));
    ASSERT_EQ(made.parts[0].bodies.size(), 2u);
    const size_t moved = made.parts[0].bodies[0].called() == "right" ? 0 : 1;
    const Standing& standing = standing_of(made);
    EXPECT_TRUE(standing.of(made.parts[0].part, 1 - moved).isApprox(Transform::Identity(), 0));
    EXPECT_LT((standing.of(made.parts[0].part, moved) * Vec3(20, 0, 0) - Vec3(0, 20, 0)).norm(), 1e-9);
    EXPECT_LT((standing.of(made.parts[1].part) * made.parts[1].place * Vec3(0, 0, 0) - Vec3(0, 20, 5)).norm(), 0.01)
        << "its middle by facets";
    EXPECT_TRUE(standing.of(made.parts[2].part).isApprox(Transform::Identity(), 0)) << "the foot is on the other leaf";
    EXPECT_EQ(bounding_box(mesh_where_it_stands(made.parts[0], standing)).max().y(), 30);
}

TEST(Standing, FitsCutsAndPrintsGoByWhatIsDrawn) {
    const Evaluation drawn = evaluated(project_of(arm())), led = evaluated(project_of(arm("70", "110")));
    Analyser one, other;
    const auto a = one.analyse(drawn), b = other.analyse(led);
    ASSERT_TRUE(a && b);
    ASSERT_EQ(a->contacts.size(), b->contacts.size());
    ASSERT_GT(a->contacts.size(), 0u);
    for (size_t i = 0; i < a->contacts.size(); ++i) {
        EXPECT_EQ(a->contacts[i].state, b->contacts[i].state);
        ASSERT_EQ(a->contacts[i].gap.has_value(), b->contacts[i].gap.has_value());
        if (a->contacts[i].gap) {
            EXPECT_EQ(a->contacts[i].gap->min_mm, b->contacts[i].gap->min_mm);
        }
    }
    for (size_t i = 0; i < drawn.parts.size(); ++i) {
        EXPECT_EQ(drawn.parts[i].key, led.parts[i].key);
        EXPECT_TRUE(drawn.parts[i].place.isApprox(led.parts[i].place, 0));
    }
    for (size_t i = 0; i < a->parts.size(); ++i) EXPECT_EQ(a->parts[i]->posed->vertices, b->parts[i]->posed->vertices);
}

TEST(Standing, AMovementIsCheckedBesideThePartsAsTheyStand) {
    // The forearm turns about the end of the arm, which stands at 90 deg: a wall along y beyond the elbow is met by the
    // corner of the link, half as wide as w, at the angle of the closed formula (see movement_test.cpp).
    json whole = arm("90", "");
    const double wall = 30, w = 5;
    json slab =
        step("block", {{"size_x", 5}, {"size_y", 200}, {"size_z", 40}, {"at_x", -wall - 2.5}, {"at_y", 60}}, "slab");
    whole["parts"].push_back({{"name", "Wall"}, {"steps", {slab}}});
    whole["movements"][1].update({{"from", "0"}, {"to", "170"}, {"still", "Wall"}});
    const Evaluation made = evaluated(project_of(whole));
    const auto outcome = run_movement(made, made.project->movements[1]);
    ASSERT_TRUE(outcome) << outcome.error().text();
    ASSERT_TRUE(outcome->result.first_contact);
    const double want = degrees(std::asin(wall / std::hypot(fore_mm, w)) - std::atan2(w, fore_mm));
    EXPECT_NEAR(*outcome->result.first_contact, want, 0.1);
    EXPECT_EQ(outcome->along, (std::vector<std::string>{"Scoop"})) << "and what rides is not met";
    // As drawn the arm lies along x: the way is free there.
    whole["movements"][0]["stands"] = "";
    whole["movements"][1]["to"] = "60";
    const Evaluation flat = evaluated(project_of(whole));
    const auto free = run_movement(flat, flat.project->movements[1]);
    ASSERT_TRUE(free);
    EXPECT_FALSE(free->result.first_contact);
    // One that is not kept is led alike.
    KeptMovement other = flat.project->movements[1];
    other.id = MovementId();
    const auto not_kept = run_movement(flat, other);
    ASSERT_TRUE(not_kept) << not_kept.error().text();
    EXPECT_EQ(not_kept->along, free->along);
    EXPECT_EQ(not_kept->result.smallest_gap_mm, free->result.smallest_gap_mm);
}

TEST(Standing, AnOutcomeIsOldByWhatItComesOfNotByWhereItIsLeft) {
    const ProjectPtr project = project_of(arm("10", ""));
    const Evaluation made = evaluated(project);
    const KeptMovement &shoulder = project->movements[0], &elbow = project->movements[1];
    const uint64_t of_elbow = movement_key(made, elbow), of_shoulder = movement_key(made, shoulder);
    auto keys_after = [&](const Expected<Edited>& edit) {
        EXPECT_TRUE(edit);
        const Evaluation next = evaluated(edit->project);
        return std::pair(movement_key(next, next.project->movements[0]) == of_shoulder,
                         movement_key(next, next.project->movements[1]) == of_elbow);
    };
    EXPECT_EQ(keys_after(set_movement(*project, 1, "25")), std::pair(false, true)) << "the forearm stands elsewhere";
    EXPECT_EQ(keys_after(set_movement(*project, 0, "20")), std::pair(true, false));
    EXPECT_EQ(keys_after(apply_edit(*project, SetColour{project->parts[1]->id, "#112233"})), std::pair(true, true));
    KeptMovement finer = elbow;
    finer.to = "90";
    EXPECT_EQ(keys_after(apply_edit(*project, SetMovement{finer})), std::pair(true, false));
}

TEST(Standing, AMeasurementIsToldAsDrawnAndAsItStands) {
    json whole = arm("90", "");
    const ProjectPtr bare = project_of(whole);
    whole["measures"] = {
        {{"id", 900}, {"a", {{"part", bare->parts[0]->id.value}}}, {"b", {{"part", bare->parts[3]->id.value}}}},
        {{"id", 901}, {"a", {{"part", bare->parts[0]->id.value}}}, {"b", {{"part", bare->parts[0]->id.value}}}}};
    for (size_t i = 0; i < 4; ++i) whole["parts"][i]["id"] = bare->parts[i]->id.value;
    const Evaluation made = evaluated(project_of(whole));
    Analyser analyser;
    const auto analysis = analyser.analyse(made);
    ASSERT_TRUE(analysis);
    ASSERT_EQ(analysis->measures.size(), 2u);
    const MeasureResult& reach = analysis->measures[0];
    ASSERT_TRUE(reach.found) << reach.lost;
    ASSERT_TRUE(reach.standing);
    // The post and the arm turn about one axis: as far as before, but along y.
    EXPECT_NEAR(reach.found->distance_mm, reach.standing->distance_mm, 0.01);
    EXPECT_GT(reach.found->at_b.x(), 90);
    EXPECT_GT(reach.standing->at_b.y(), 90);
    EXPECT_FALSE(analysis->measures[1].standing) << "the post stands as drawn";
}

TEST(Standing, BetweenItsEndsOnly) {
    const ProjectPtr project = project_of(arm("10", ""));
    for (const char* no : {"181", "-181 deg", "1e300", "1 mm", "opened +", "nothing", "1/0"}) {
        const auto refused = set_movement(*project, 0, no);
        ASSERT_FALSE(refused) << no;
        EXPECT_FALSE(refused.error().sentence.empty());
    }
    EXPECT_EQ(set_movement(*project, 0, "181").error().sentence, "Arm stands at 181°, but moves from -180° to 180°.");
    for (const char* yes : {"180", "-180", "0", "opened * 2", ""}) EXPECT_TRUE(set_movement(*project, 0, yes)) << yes;
    EXPECT_EQ(set_movement(*project, 0, "90 deg")->sentence, "Arm stands at 90 deg");
    EXPECT_EQ(set_movement(*project, 0, "")->sentence, "Arm stands as drawn");
}

TEST(Standing, AFormulaFollowsItsNumberAndIsToldWhereItCannot) {
    ProjectPtr project = project_of(arm("opened", ""));
    auto with = [&](const char* value) {
        auto next = apply_edit(*project, SetParameter{"opened", value, QuantityKind::Angle, ""});
        EXPECT_TRUE(next) << next.error().text();
        return evaluated(next->project);
    };
    Evaluation made = with("75 deg");
    EXPECT_LT((tip(made, standing_of(made)) - by_formula(75, 0)).norm(), 1e-6);
    made = with("200 deg");
    EXPECT_TRUE(standing_of(made).as_drawn());
    const auto found = findings_of_part(made, nullptr, made.parts[1].part);
    ASSERT_EQ(found.size(), 1u);
    EXPECT_EQ(found[0].ref.kind, FindingKind::LostPlace);
    EXPECT_NE(found[0].finding.says.find("200°"), std::string::npos) << found[0].finding.says;
    // A number that is used keeps its name in step, and is not removed.
    auto renamed = apply_edit(*project, RenameParameter{"opened", "swung"});
    ASSERT_TRUE(renamed) << renamed.error().text();
    EXPECT_EQ(renamed->project->movements[0].stands, "swung");
    EXPECT_FALSE(apply_edit(*project, RemoveParameter{"opened"}));
}

TEST(Standing, IsSavedAndReadAndDamageIsRefused) {
    const ProjectPtr project = project_of(arm("opened + 10", "-20 deg"));
    const auto again = project_from_json(project_to_json(*project));
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(again->movements, project->movements);
    EXPECT_FALSE(project_to_json(*project_of(arm())).dump().find("\"stands\"") != std::string::npos);
    json damaged = arm();
    damaged["movements"][0]["stands"] = nullptr;
    EXPECT_FALSE(project_from_text(damaged.dump()));
    // What cannot be worked out is read, stands as drawn and says so.
    for (const char* odd : {"huge", "1e308 * 10", "((((", "mm", "true", "{}"}) {
        const Evaluation made = evaluated(project_of(arm(odd, "20")));
        const Standing& standing = standing_of(made);
        EXPECT_LT((tip(made, standing) - by_formula(0, 20)).norm(), 1e-6) << "the other one stands";
        EXPECT_TRUE(standing.problem_of(made.project->movements[0].id)) << odd;
        EXPECT_FALSE(standing.problem_of(made.project->movements[1].id));
    }
    // A movement of nobody.
    json whole = arm();
    whole["movements"][0].update({{"moving", "Nobody"}, {"stands", "20"}});
    const Evaluation made = evaluated(project_of(whole));
    EXPECT_TRUE(standing_of(made).problem_of(made.project->movements[0].id));
    EXPECT_TRUE(standing_of(made).as_drawn());
}

TEST(Standing, AnOpenCoverLetsInWhatAClosedOneKeepsOut) {
    // A tray with its cover on; the cover turns about the tray's rear edge. Put on before the brick.
    auto box = [](double x, double y, double z, double at_z, const char* does) {
        return step("block", {{"size_x", x}, {"size_y", y}, {"size_z", z}, {"at_z", at_z}, {"does", does}});
    };
    json whole{{"format", "loose-peg"}, {"version", 1}};
    whole["parts"] = {{{"name", "Tray"}, {"id", 1}, {"steps", {box(40, 40, 20, 0, "join"), box(34, 34, 20, 3, "cut")}}},
                      {{"name", "Cover"}, {"id", 2}, {"steps", {box(40, 40, 3, 20.2, "join")}}},
                      {{"name", "Brick"}, {"id", 3}, {"steps", {box(20, 20, 10, 3.2, "join")}}}};
    whole["assembly"] = {1, 2, 3};
    whole["movements"] = {{{"moving", "Cover"},
                           {"kind", "turn"},
                           {"point", {"0 mm", "20.5 mm", "24 mm"}},
                           {"direction", {"-1", "0", "0"}},
                           {"from", "0"},
                           {"to", "170"},
                           {"step", "2"}}};
    for (const char* stands : {"", "110"}) {
        whole["movements"][0]["stands"] = stands;
        const Evaluation made = evaluated(project_of(whole));
        const auto analysis = Analyser().analyse(made);
        ASSERT_TRUE(analysis);
        const auto moves = assembly_order(made, *analysis);
        ASSERT_TRUE(moves);
        ASSERT_EQ(moves->size(), 3u);
        EXPECT_EQ((*moves)[2].name, "Brick");
        EXPECT_EQ((*moves)[2].in_the_way.empty(), *stands != 0) << stands << ": " << (*moves)[2].words();
    }
}

TEST(Standing, WhatLeavesItsSeatTouchesNothingByThatWhatRubsOnDoes) {
    // A lid that sits on a tin: lifted off, turned up about its rear edge, dragged along the rim, pushed down.
    json whole{{"format", "loose-peg"}, {"version", 1}};
    const json seat = json::array({{{"face", "bottom of plate"}, {"on", "Tin"}, {"on_face", "top of body"}}});
    auto slab = [](const char* name, double z) {
        return step("block", {{"size_x", 40}, {"size_y", 40}, {"size_z", z}}, name);
    };
    whole["parts"] = {
        {{"name", "Tin"}, {"steps", {slab("body", 20)}}},
        {{"name", "Lid"}, {"steps", {slab("plate", 4)}}, {"place", {{"seats", seat}}}},
        {{"name", "Beam"},
         {"steps", {step("block", {{"size_x", 10}, {"size_y", 90}, {"size_z", 5}, {"at_z", 36}}, "beam")}}}};
    auto led = [&](const json& more) {
        json movement{{"moving", "Lid"}, {"kind", "slide"}, {"from", "0 mm"}, {"to", "10 mm"}, {"step", "0.5 mm"}};
        movement.update(more);
        whole["movements"] = {movement};
        const Evaluation made = evaluated(project_of(whole));
        auto outcome = run_movement(made, made.project->movements[0]);
        EXPECT_TRUE(outcome) << outcome.error().text();
        return outcome.value_or(MovementOutcome{});
    };
    const MovementOutcome up = led(json::object());
    EXPECT_EQ(up.rests_on, "Tin");
    EXPECT_FALSE(up.result.first_contact);
    EXPECT_NEAR(up.result.smallest_gap_mm, 0.5, 1e-6) << "a step above its seat";
    const MovementOutcome into_beam = led({{"to", "14 mm"}});
    ASSERT_TRUE(into_beam.result.first_contact);
    EXPECT_NEAR(*into_beam.result.first_contact, 12, 0.005) << "that is met all the same";
    for (const json& rubs : {json{{"direction", {"1", "0", "0"}}}, json{{"direction", {"0", "0", "-1"}}}}) {
        const MovementOutcome outcome = led(rubs);
        EXPECT_EQ(outcome.rests_on, "") << rubs;
        ASSERT_TRUE(outcome.result.first_contact);
        EXPECT_EQ(*outcome.result.first_contact, 0);
    }
    whole["parts"][1]["place"] = {{"at", {"0 mm", "0 mm", "20 mm"}}};
    EXPECT_EQ(led(json::object()).rests_on, "") << "by numbers alone it is no seat: it touches";
}
