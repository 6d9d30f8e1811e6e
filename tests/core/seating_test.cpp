// Parts seated on faces of others: where faces and axes lie then is checked by their own places, which follow numbers.
#include "made_project.h"
#include "project/analysis.h"
#include "project/assembly_order.h"
#include "project/bodies_apart.h"
#include "project/findings.h"
#include "project/seating.h"
#include "wind_station.h"
#include <numbers>
#include <random>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

json seat(const char* face, const char* on, const char* on_face, const char* gap = "0 mm") {
    return {{"face", face}, {"on", on}, {"on_face", on_face}, {"gap", gap}};
}
json part(const char* name, const json& steps, const json& seats = json::array(),
          const json& turn = {"0 deg", "0 deg", "0 deg"}, const json& at = {"0 mm", "0 mm", "0 mm"}) {
    return {{"name", name}, {"steps", steps}, {"place", {{"seats", seats}, {"turn", turn}, {"at", at}}}};
}
json at(json step, double x, double y, double z, const char* does = nullptr) {
    step["fields"].update({{"at_x", x}, {"at_y", y}, {"at_z", z}});
    if (does) step["fields"]["does"] = does;
    return step;
}
json round(const char* name, double diameter, double height) {
    return step("cylinder", {{"diameter", diameter}, {"height", height}}, name);
}

ProjectPtr project_of(const json& parts, const json& parameters = json::object()) {
    auto project = project_from_text(
        json{{"format", "loose-peg"}, {"version", 1}, {"parameters", parameters}, {"parts", parts}}.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    return std::make_shared<const Project>(project.value_or(Project{}));
}
Evaluation evaluated(const ProjectPtr& project) {
    auto made = Evaluator().evaluate(project);
    EXPECT_TRUE(made);
    return made.value_or(Evaluation{});
}
/// The sentence of a part that stands nowhere, or why a step failed.
std::string says(const Evaluation& made) {
    std::string text;
    for (const PartResult& p : made.parts) {
        if (p.place_problem) text += p.name + ": " + p.place_problem->text() + "\n";
        for (const StepOutcome& s : p.steps)
            if (!s.ok) text += s.says + "\n";
    }
    return text;
}

/// A box with two posts, and a lid with two holes for them, drawn somewhere else and askew.
json box_and_lid(const char* apart = "40 mm", const json& more = json::array()) {
    auto pair = [](const char* name, double height, const char* between, const char* does, double z) {
        json left = round((std::string(name) + " left").c_str(), 6, height), right = left;
        right["name"] = std::string(name) + " right";
        for (auto [one, sign] : {std::pair(&left, "-("), std::pair(&right, "(")})
            (*one)["fields"].update({{"at_x", std::string(sign) + between + ") / 2"}, {"at_z", z}, {"does", does}});
        return std::pair(left, right);
    };
    json tall = step("block", {{"size_x", 60}, {"size_y", 30}, {"size_z", "tall"}}, "body");
    auto [left, right] = pair("post", 5, "apart", "join", 0);
    for (json* post : {&left, &right}) (*post)["fields"]["at_z"] = "tall";
    auto [hole_left, hole_right] = pair("hole", 4, apart, "cut", 0);
    json seats{seat("bottom of plate", "Box", "top of body"), seat("side of hole left", "Box", "side of post left"),
               seat("side of hole right", "Box", "side of post right")};
    for (const json& one : more) seats.push_back(one);
    return json::array({part("Lid",
                             json::array({step("block", {{"size_x", 60}, {"size_y", 30}, {"size_z", 4}}, "plate"),
                                          hole_left, hole_right}),
                             seats, {"20 deg", "0 deg", "30 deg"}),
                        part("Box", json::array({tall, left, right}), json::array(), {"0 deg", "0 deg", "15 deg"},
                             {"100 mm", "7 mm", "0 mm"})});
}
const json numbers{{"tall", "25 mm"}, {"apart", "40 mm"}};

} // namespace

TEST(Seating, ALidGoesOverItsPostsAndFollowsTheBox) {
    ProjectPtr project = project_of(box_and_lid(), numbers);
    for (double tall : {25.0, 40.0}) {
        auto next = apply_edit(*project, SetParameter{"tall", std::to_string(tall) + " mm", QuantityKind::Length, ""});
        ASSERT_TRUE(next) << next.error().text();
        const Evaluation made = evaluated(next->project);
        ASSERT_EQ(says(made), "");
        const Transform& lid = made.parts[0].place;
        const Transform& box = made.parts[1].place;
        EXPECT_TRUE((lid.linear() * Vec3::UnitZ()).isApprox(Vec3::UnitZ(), 1e-9)) << "its bottom looks at the box";
        for (double x : {-20.0, 20.0})
            EXPECT_LT((lid * Vec3(x, 0, 0) - box * Vec3(x, 0, tall)).norm(), 1e-6) << "hole over post";
        // The drawing stays as it is.
        EXPECT_NEAR(made.parts[0].box.min().z(), 0, 1e-9);
    }
}

TEST(Seating, WhatRestsAsSeatedIsNotToldOfButWhatTouchesElsewhereIs) {
    // A lid over two pegs: it lies on the tin, its holes clear of the pegs, or just as wide as they are.
    for (const auto& [hole, state] : {std::pair(6.5, FitState::Unset), {6.0, FitState::Touching}}) {
        json parts = box_and_lid();
        for (int i : {1, 2}) parts[0]["steps"][size_t(i)]["fields"]["diameter"] = hole;
        const Evaluation made = evaluated(project_of(parts, numbers));
        ASSERT_EQ(says(made), "");
        const auto contacts = Analyser().contacts(made);
        ASSERT_EQ(contacts.size(), 1u);
        EXPECT_EQ(contacts[0].state, state) << hole;
        // Laid there by numbers it touches like anything else.
        json by_numbers = parts;
        const Transform stands = made.parts[0].place;
        const AssemblyPlace typed = typed_place(stands);
        by_numbers[0]["place"] = {{"at", typed.at}, {"turn", typed.turn}};
        const auto told = Analyser().contacts(evaluated(project_of(by_numbers, numbers)));
        ASSERT_EQ(told.size(), 1u);
        EXPECT_NE(told[0].state, FitState::Unset) << hole;
    }
}

TEST(Seating, OneFlatSeatLaysMiddleOnMiddleWithItsGap) {
    // A hole beside the middle of the face does not move the middle of what it spans.
    const json parts = json::array(
        {part("Brick", json::array({block(10, 10, 8, "brick")}),
              json::array({seat("bottom of brick", "Plate", "top of plate", "slide")})),
         part("Plate", json::array({block(40, 30, 5, "plate"), at(round("hole", 6, 5), 12, 0, 0, "cut")}))});
    ProjectPtr project = project_of(parts);
    const auto slide = project_values(*project);
    ASSERT_TRUE(slide);
    const double gap = slide->at("slide").value;
    ASSERT_GT(gap, 0);
    Evaluation made = evaluated(project);
    ASSERT_EQ(says(made), "");
    EXPECT_TRUE(made.parts[0].place.translation().isApprox(Vec3(0, 0, 5 + gap), 1e-9)) << "a fit by its name";
    // On its side, upside down: any face on any face.
    for (const auto& [face, out] : {std::pair("front of brick", Vec3(0, -1, 0)),
                                    {"top of brick", Vec3(0, 0, 1)},
                                    {"right of brick", Vec3(1, 0, 0)}}) {
        json turned = parts;
        turned[0]["place"]["seats"][0]["face"] = face;
        made = evaluated(project_of(turned));
        ASSERT_EQ(says(made), "") << face;
        EXPECT_TRUE((made.parts[0].place.linear() * out).isApprox(-Vec3::UnitZ(), 1e-9)) << face;
        EXPECT_NEAR(made.parts[0].box.transformed(made.parts[0].place).min().z(), 5 + gap, 1e-9) << face;
    }
    // And moved from there.
    json beside = parts;
    beside[0]["place"]["at"] = {"3 mm", "0 mm", "-1 mm"};
    EXPECT_TRUE(evaluated(project_of(beside)).parts[0].place.translation().isApprox(Vec3(3, 0, 4 + gap), 1e-9));
}

TEST(Seating, RoundSeatsShareAnAxisInAnyOrder) {
    // A wheel on an axle that leans: axis on axis, then its face against a collar, whichever is named first; the wheel
    // is drawn upside down.
    const json axle = json::array({round("rod", 8, 50), at(round("collar", 16, 3), 0, 0, 20)});
    const json wheel = json::array({round("disc", 30, 6), at(round("bore", 8.4, 6), 0, 0, 0, "cut")});
    const json about = seat("side of bore", "Axle", "side of rod"),
               against = seat("top of disc", "Axle", "top of collar");
    for (const json& seats : {json::array({about, against}), json::array({against, about})}) {
        const Evaluation made = evaluated(project_of(
            json::array({part("Axle", axle, json::array(), {"35 deg", "10 deg", "0 deg"}, {"5 mm", "6 mm", "7 mm"}),
                         part("Wheel", wheel, seats, {"170 deg", "40 deg", "0 deg"}, {"0 mm", "0 mm", "0 mm"})})));
        ASSERT_EQ(says(made), "");
        const Transform to_axle = made.parts[0].place.inverse() * made.parts[1].place;
        EXPECT_LT(Vec3(to_axle * Vec3(0, 0, 6) - Vec3(0, 0, 23)).norm(), 1e-6) << "top on the collar, on the axis";
        EXPECT_LT(Vec3(to_axle.linear() * Vec3::UnitZ() + Vec3::UnitZ()).norm(), 1e-6) << "its top looks down the axle";
    }
}

TEST(Seating, TellsWhatCannotBe) {
    auto told = [](const json& parts, const json& parameters = numbers) {
        const Evaluation made = evaluated(project_of(parts, parameters));
        const auto found = all_findings(made, nullptr);
        EXPECT_TRUE(std::any_of(found.begin(), found.end(),
                                [](const PartFinding& f) { return f.finding.kind == FindingKind::LostPlace; }) ||
                    says(made).empty());
        return says(made);
    };
    EXPECT_NE(told(box_and_lid("41 mm")).find("cannot be seated on Box as well"), std::string::npos)
        << "a millimetre apart";
    EXPECT_NE(
        told(box_and_lid("40 mm", json::array({seat("left of plate", "Box", "right of body")}))).find("cannot be"),
        std::string::npos);
    EXPECT_NE(told(box_and_lid("40 mm", json::array({seat("top of roof", "Box", "top of body")}))).find("Lid: "),
              std::string::npos);
    EXPECT_NE(told(box_and_lid("40 mm", json::array({seat("top of plate", "Boxes", "top of body")})))
                  .find("no part called \"Boxes\""),
              std::string::npos);
    EXPECT_NE(told(box_and_lid("40 mm", json::array({seat("top of plate", "Box", "side of post left")})))
                  .find("flat face is seated on a flat one"),
              std::string::npos);
    EXPECT_NE(
        told(box_and_lid("40 mm", json::array({seat("top of plate", "Box", "top of body", "wide * 2")}))).find("wide"),
        std::string::npos);
    json circle = box_and_lid();
    circle[1]["place"]["seats"] = json::array({seat("bottom of body", "Lid", "top of plate")});
    EXPECT_NE(told(circle).find("in a circle: "), std::string::npos);
    // What is written wrongly is not read at all.
    for (const char* missing : {"face", "on", "on_face"}) {
        json parts = box_and_lid();
        parts[0]["place"]["seats"][1].erase(missing);
        auto read = project_from_text(
            json{{"format", "loose-peg"}, {"version", 1}, {"parameters", numbers}, {"parts", parts}}.dump());
        ASSERT_FALSE(read) << missing;
        EXPECT_NE(read.error().text().find("seat 2"), std::string::npos) << read.error().text();
    }
    json parts = box_and_lid();
    parts[0]["place"]["seats"] = {7, "x"};
    EXPECT_FALSE(project_from_text(json{{"format", "loose-peg"}, {"version", 1}, {"parts", parts}}.dump()));
}

TEST(Seating, IsSavedRenamedAndRemovedWithWhatItNames) {
    ProjectPtr project = project_of(box_and_lid(), numbers);
    auto again = project_from_text(project_to_json(*project).dump());
    ASSERT_TRUE(again) << again.error().text();
    EXPECT_EQ(again->parts[0]->place, project->parts[0]->place);
    auto seats = [](const ProjectPtr& p) { return p->parts[0]->place.seats; };
    auto renamed = apply_edit(*project, RenamePart{project->parts[1]->id, "Case"});
    ASSERT_TRUE(renamed);
    EXPECT_EQ(seats(renamed->project)[2].on, "Case");
    auto named = apply_edit(*renamed->project,
                            NameStep{renamed->project->parts[1]->id, renamed->project->parts[1]->steps[1].id, "peg"});
    ASSERT_TRUE(named) << named.error().text();
    EXPECT_EQ(seats(named->project)[1].on_face.text(), "side of peg");
    EXPECT_EQ(says(evaluated(named->project)), "");
    // A gap by a number of the project keeps its number's name.
    AssemblyPlace place = project->parts[0]->place;
    place.seats[0].gap = "apart / 100";
    auto by_number = apply_edit(*project, SetPlace{project->parts[0]->id, place});
    ASSERT_TRUE(by_number) << by_number.error().text();
    auto other_name = apply_edit(*by_number->project, RenameParameter{"apart", "between"});
    ASSERT_TRUE(other_name);
    EXPECT_EQ(seats(other_name->project)[0].gap, "between / 100");
    EXPECT_NEAR(evaluated(other_name->project).parts[0].place.translation().z(), 25.4, 1e-6);
    auto gone = apply_edit(*project, RemovePart{project->parts[1]->id});
    ASSERT_TRUE(gone) << gone.error().text();
    EXPECT_TRUE(seats(gone->project).empty());
    place.seats[0].gap = "no number";
    EXPECT_FALSE(apply_edit(*project, SetPlace{project->parts[0]->id, place}));
    place.seats[0] = {"top of plate", "Lid", "bottom of plate"};
    EXPECT_FALSE(apply_edit(*project, SetPlace{project->parts[0]->id, place})) << "on itself";
}

TEST(Seating, WhatIsCutWithASeatedPartIsCutWhereItSits) {
    // A hub that is opened for an arm, which is seated on the hub itself: the socket is as deep as the gap leaves it.
    const json hub = json::array({block(30, 30, 20, "hub"), step("cut_with", {{"tool", "Arm"}, {"fit", "0.2 mm"}})});
    const json arm = json::array({block(60, 8, 8, "beam"), at(block(4, 20, 20, "stop"), -10, 0, -6)});
    ProjectPtr project = project_of(json::array(
        {part("Hub", hub), part("Arm", arm, json::array({seat("left of stop", "Hub", "right of hub", "0.2 mm")}),
                                {"0 deg", "0 deg", "0 deg"})}));
    const Evaluation made = evaluated(project);
    ASSERT_EQ(says(made), "");
    // The stop's left face lies 12 mm left of the beam's middle and 18 mm right of its end.
    EXPECT_NEAR((made.parts[1].place * Vec3(-12, 0, 4)).x(), 15.2, 1e-6);
    const double deep = 18 - 0.2 + 0.2; // from the face; a gap's room before the end
    EXPECT_NEAR(made.parts[0].mass.volume_mm3, 30 * 30 * 20 - deep * 8.4 * 8.4, 1e-3);
    auto contacts = Analyser().contacts(made);
    ASSERT_EQ(contacts.size(), 1u);
    EXPECT_EQ(contacts[0].state, FitState::Right);
    // What is made out of it stands where it stood, by numbers.
    EXPECT_TRUE(without_seats(made).parts[1]->place.seats.empty());
    auto typed = assembly_transform(without_seats(made).parts[1]->place, {});
    ASSERT_TRUE(typed);
    EXPECT_TRUE(typed->isApprox(made.parts[1].place, 1e-6));
}

TEST(Seating, AStationOf22PartsIsSeatedAndGoesTogether) { // act 2
    auto project = project_from_text(WindStation::document().dump());
    ASSERT_TRUE(project) << project.error().text();
    const Evaluation made = evaluated(std::make_shared<const Project>(*project));
    ASSERT_EQ(made.parts.size(), 22u);
    ASSERT_EQ(says(made), "");
    auto analysis = Analyser().analyse(made);
    ASSERT_TRUE(analysis);
    size_t sockets = 0;
    for (const ContactResult& c : analysis->contacts)
        if (c.b == "Hub" && c.a.find("Arm") == 0) {
            EXPECT_EQ(c.state, FitState::Right) << c.a << ": the hub is cut where the arm sits, on the hub itself";
            ++sockets;
        }
    EXPECT_EQ(sockets, 3u);
    auto moves = assembly_order(made, *analysis);
    ASSERT_TRUE(moves);
    ASSERT_EQ(moves->size(), 22u);
    for (const AssemblyMove& move : *moves) EXPECT_TRUE(move.in_the_way.empty()) << move.words();
    // A taller box lifts all that sits on it, by the same as it grew.
    auto taller = apply_edit(*made.project, SetParameter{"tall", "42 mm", QuantityKind::Length, ""});
    ASSERT_TRUE(taller);
    const Evaluation tall = evaluated(taller->project);
    ASSERT_EQ(says(tall), "");
    for (size_t i = 0; i < made.parts.size(); ++i) {
        const std::string& name = made.parts[i].name;
        const double lifted = tall.parts[i].place.translation().z() - made.parts[i].place.translation().z();
        EXPECT_NEAR(lifted, name == "Box" || name == "Board" ? 0 : 12, 1e-6) << name;
    }
}

TEST(Seating, PlacesByNumbersAreTheSamePlace) {
    std::mt19937 random(26);
    std::uniform_real_distribution<double> any(-180, 180);
    for (int i = 0; i < 200; ++i) {
        AssemblyPlace place;
        for (size_t k = 0; k < 3; ++k) {
            place.at[k] = std::to_string(any(random)) + " mm";
            place.turn[k] = std::to_string(i % 4 == 0 ? 90.0 * int(any(random) / 60) : any(random)) + " deg";
        }
        const Transform stands = *assembly_transform(place, {});
        EXPECT_TRUE(assembly_transform(typed_place(stands), {})->isApprox(stands, 1e-6));
    }
}
