// The index of references: what names what, and what happens to it when that is renamed, moved, copied or taken away.
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "project/references.h"

using namespace lp;
using namespace lp::test;

namespace {

ProjectPtr project_of(json parts, json more = json::object(), json parameters = json::object()) {
    json whole{{"format", "loose-peg"}, {"version", 1}, {"parameters", parameters}, {"parts", parts}};
    whole.update(more);
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    return std::make_shared<const Project>(project.value_or(Project{}));
}
ProjectPtr edited(const ProjectPtr& project, const Edit& edit) {
    auto next = apply_edit(*project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    return next ? next->project : project;
}
std::string refusal(const ProjectPtr& project, const Edit& edit) {
    auto next = apply_edit(*project, edit);
    EXPECT_FALSE(next) << "was taken: " << (next ? next->sentence : "");
    return next ? "" : next.error().text();
}
json a_part(const std::string& name, json steps) {
    return {{"name", name}, {"steps", std::move(steps)}};
}
const json pin = step("cylinder", {{"diameter", 6}, {"height", 30}}, "stem");

/// "from/to" of every reference, sorted.
std::multiset<std::string> named(const Project& project) {
    std::multiset<std::string> result;
    each_reference(project, [&](const Reference& r) { result.insert(r.place.words + " -> " + r.name); });
    return result;
}
std::vector<std::string> expressions(const Project& project) {
    std::vector<std::string> result;
    each_expression(project, [&](const Expression& e) { result.push_back(e.place.words + ": " + e.text); });
    return result;
}

} // namespace

// Removing.

TEST(References, APartThatATakeStepUsesIsNotRemoved) {
    ProjectPtr p =
        project_of(json::array({a_part("Vial", json::array({pin})),
                                a_part("Rack", json::array({block(9, 9, 9), step("take", {{"from", "Vial"}})}))}));
    std::string says = refusal(p, RemovePart{p->parts[0]->id});
    EXPECT_NE(says.find("Rack, step 2"), std::string::npos) << says;
    p = edited(p, RemoveStep{p->parts[1]->id, p->parts[1]->steps[1].id});
    EXPECT_EQ(edited(p, RemovePart{p->parts[0]->id})->parts.size(), 1u);
}
TEST(References, WhatIsOnlyAboutAPartGoesWithIt) {
    ProjectPtr p = project_of(
        json::array({a_part("Vial", json::array({pin})), a_part("Rack", json::array({block(9, 9, 9)})),
                     a_part("Lid", json::array({block(9, 9, 2)}))}),
        {{"contacts",
          {{{"a", "Vial"}, {"b", "Rack"}, {"fit", "slide"}}, {{"a", "Lid"}, {"b", "Rack"}, {"fit", "snug"}}}},
         {"movements",
          {{{"moving", "Lid"}, {"still", "Vial, Rack"}, {"kind", "slide"}, {"from", 0}, {"to", 5}, {"step", 1}},
           {{"moving", "Lid"}, {"still", "Vial"}, {"kind", "slide"}, {"from", 0}, {"to", 5}, {"step", 1}},
           {{"moving", "Vial"}, {"kind", "turn"}, {"from", 0}, {"to", 5}, {"step", 1}}}}});
    ASSERT_EQ(p->movements.size(), 3u);
    ProjectPtr gone = edited(p, RemovePart{p->parts[0]->id});
    ASSERT_EQ(gone->contacts.size(), 1u);
    EXPECT_EQ(gone->contacts[0].a, "Lid");
    ASSERT_EQ(gone->movements.size(), 1u) << "one was beside nothing else, one moved it";
    EXPECT_EQ(gone->movements[0].still, "Rack");
}
TEST(References, ANumberUsedAnywhereIsNotRemoved) {
    const json parts = json::array({a_part("Vial", json::array({pin})), a_part("Rack", json::array({block(9, 9, 9)}))});
    ProjectPtr base = project_of(parts, json::object(), {{"n", "2 mm"}, {"other_n", "3 mm"}});
    PartId vial = base->parts[0]->id;
    AssemblyPlace place;
    place.at[1] = "n + 1 mm";
    KeptMovement movement;
    movement.moving = "Vial", movement.kind = "slide", movement.from = "0 mm", movement.to = "n",
    movement.step = "1 mm";
    KeptMovement at = movement;
    at.to = "5 mm", at.point[0] = "n";
    for (const auto& [edit, where] :
         {std::pair(Edit(SetPlace{vial, place}), "Vial"), std::pair(Edit(AddMovement{movement}), "movement of Vial"),
          std::pair(Edit(AddMovement{at}), "movement of Vial"),
          std::pair(Edit(SetContact{"Vial", "Rack", "n"}), "contact of Vial"),
          std::pair(Edit(SetParameter{"other_n", "n * 2", {}, {}}), "parameter other_n"),
          std::pair(Edit(SetField{vial, base->parts[0]->steps[0].id, "height", "30 mm + n"}),
                    "Vial, step 1, height")}) {
        ProjectPtr used = edited(base, edit);
        std::string says = refusal(used, RemoveParameter{"n"});
        EXPECT_NE(says.find(where), std::string::npos) << where << ": " << says;
        // Renamed, everything still says the same.
        ProjectPtr renamed = edited(used, RenameParameter{"n", "gap_b"});
        EXPECT_EQ(expressions(*renamed).size(), expressions(*used).size());
        for (const std::string& e : expressions(*renamed))
            EXPECT_FALSE(e.find(" n ") != std::string::npos || e.ends_with(" n")) << e;
        EXPECT_TRUE(project_values(*renamed));
        refusal(renamed, RemoveParameter{"gap_b"});
    }
    EXPECT_EQ(edited(base, RemoveParameter{"n"})->parameters.size(), 1u) << "unused, it goes";
}

// Renaming.

TEST(References, ListsAreRenamedOneByOne) {
    ProjectPtr p =
        project_of(json::array({a_part("Cup", json::array({pin})), a_part("Cup holder", json::array({block(9, 9, 9)})),
                                a_part("Lid", json::array({block(9, 9, 2)}))}),
                   {{"movements",
                     {{{"moving", "Lid"},
                       {"still", "Cup, Cup holder"},
                       {"kind", "slide"},
                       {"from", 0},
                       {"to", 5},
                       {"step", 1}}}}});
    p = edited(p, RenamePart{p->parts[0]->id, "Vial"});
    EXPECT_EQ(p->movements.at(0).still, "Vial, Cup holder");
    p = edited(p, RenamePart{p->parts[1]->id, "Rack"});
    EXPECT_EQ(p->movements.at(0).still, "Vial, Rack");
    p = edited(p, RenamePart{p->parts[2]->id, "Cap"});
    EXPECT_EQ(p->movements.at(0).moving, "Cap");
}
TEST(References, BodiesOfAPartFollowIt) {
    ProjectPtr p = project_of(
        json::array({a_part(
            "Chain",
            json::array({block(9, 9, 9, "link"),
                         step("block", {{"size_x", 5}, {"size_y", 5}, {"size_z", 5}, {"at_x", 30}, {"does", "new"}},
                              "ring")}))}),
        {{"movements",
          {{{"moving", "Chain/link"},
            {"still", "Chain/ring"},
            {"kind", "slide"},
            {"from", 0},
            {"to", 5},
            {"step", 1}}}},
         {"contacts", {{{"a", "Chain/link"}, {"b", "Chain/ring"}, {"fit", "loose"}}}}});
    p = edited(p, RenamePart{p->parts[0]->id, "Tether"});
    p = edited(p, NameStep{p->parts[0]->id, p->parts[0]->steps[0].id, "shackle"});
    EXPECT_EQ(p->movements.at(0).moving, "Tether/shackle");
    EXPECT_EQ(p->movements.at(0).still, "Tether/ring");
    EXPECT_EQ(p->contacts.at(0).a, "Tether/shackle");
    EXPECT_EQ(p->contacts.at(0).b, "Tether/ring");
}
TEST(References, NamingAStepIsFollowedByWhatRefersToIt) {
    ProjectPtr p = project_of(json::array(
        {a_part("Post", json::array({block(20, 20, 10, "base"),
                                     step("cylinder", {{"diameter", 4}, {"height", 20}, {"does", "new"}}, "bolt"),
                                     step("fillet", {{"edges", "of top of base; of bottom of base"}, {"radius", 1}}),
                                     step("repeat", {{"steps", "bolt, base"}, {"count", 2}, {"by_x", 30}}),
                                     step("move", {{"what", "bolt"}, {"by_x", 1}})})),
         a_part("Other", json::array({step("take", {{"from", "Post"}, {"what", "bolt"}, {"after", "bolt"}})}))}));
    PartId post = p->parts[0]->id;
    p = edited(p, NameStep{post, p->parts[0]->steps[0].id, "foot"});
    p = edited(p, NameStep{post, p->parts[0]->steps[1].id, "screw"});
    const Part& now = *p->parts[0];
    EXPECT_EQ(now.steps[2].fields.at("edges").text(), "of top of foot; of bottom of foot");
    EXPECT_EQ(now.steps[3].fields.at("steps").text(), "screw, foot");
    EXPECT_EQ(now.steps[4].fields.at("what").text(), "screw");
    const Step& take = p->parts[1]->steps[0];
    EXPECT_EQ(take.fields.at("what").text(), "screw");
    EXPECT_EQ(take.fields.at("after").text(), "screw");
    // Its name taken away, the references go by its number.
    p = edited(p, NameStep{post, now.steps[1].id, ""});
    EXPECT_EQ(p->parts[1]->steps[0].fields.at("after").text(), to_text(p->parts[0]->steps[1].id));
}
TEST(References, AStepOfTheSameNameInAnotherPartIsNotTouched) {
    const json steps = json::array({block(20, 20, 10, "base"), step("move", {{"what", "base"}, {"by_x", 1}})});
    ProjectPtr p = project_of(json::array({a_part("A", steps), a_part("B", steps)}));
    p = edited(p, NameStep{p->parts[0]->id, p->parts[0]->steps[0].id, "foot"});
    EXPECT_EQ(p->parts[0]->steps[1].fields.at("what").text(), "foot");
    EXPECT_EQ(p->parts[1]->steps[1].fields.at("what").text(), "base");
}
TEST(References, TheProjectIsRenamed) {
    ProjectPtr p = project_of(json::array());
    EXPECT_EQ(edited(p, SetProjectName{"  Water butt "})->name, "Water butt");
    for (const std::string& bad : {std::string(), std::string("  "), std::string(200, 'x')})
        EXPECT_FALSE(apply_edit(*p, SetProjectName{bad})) << bad;
    Part part;
    part.name = "A";
    p = edited(p, AddPart{part});
    for (const std::string& bad : {std::string(), std::string(81, 'x')})
        EXPECT_FALSE(apply_edit(*p, RenamePart{p->parts[0]->id, bad})) << bad;
}
TEST(References, NamesThatAreTakenAreRefused) {
    ProjectPtr p = project_of(json::array({a_part("A", json::array({pin})), a_part("B", json::array({pin}))}),
                              json::object(), {{"n", "2 mm"}, {"other_n", "3 mm"}});
    EXPECT_NE(refusal(p, RenamePart{p->parts[0]->id, "B"}).find("\"B\""), std::string::npos);
    EXPECT_NE(refusal(p, RenameParameter{"n", "other_n"}).find("other_n"), std::string::npos);
    refusal(p, RenameParameter{"n", "1n"});
    refusal(p, RenameParameter{"n", ""});
    refusal(p, RenameParameter{"nowhere", "k"});
    EXPECT_EQ(edited(p, RenamePart{p->parts[0]->id, "A"})->parts[0]->name, "A") << "its own name is no clash";
}

// Order of steps.

TEST(References, AStepIsNotMovedBeforeWhatItRefersTo) {
    ProjectPtr p = project_of(json::array({a_part(
        "Post", json::array({block(20, 20, 10, "base"), step("cylinder", {{"diameter", 4}, {"height", 20}}, "bolt"),
                             step("repeat", {{"steps", "bolt"}, {"count", 2}, {"by_x", 30}}, "row"),
                             step("fillet", {{"edges", "of top of base"}, {"radius", 1}})}))}));
    const Part& part = *p->parts[0];
    auto id = [&](size_t i) { return part.steps[i].id; };
    EXPECT_TRUE(check_move(*p, part, id(2), 1)) << "a repeat before what it repeats";
    EXPECT_TRUE(check_move(*p, part, id(2), 0));
    EXPECT_TRUE(check_move(*p, part, id(1), 2)) << "and what is repeated after it";
    EXPECT_TRUE(check_move(*p, part, id(0), 3)) << "a fillet names its edges by the base";
    EXPECT_FALSE(check_move(*p, part, id(3), 1));
    EXPECT_FALSE(check_move(*p, part, id(1), 0));
    EXPECT_FALSE(check_move(*p, part, id(2), 3));
    std::string says = refusal(p, MoveStep{part.id, id(2), 0});
    EXPECT_NE(says.find("bolt"), std::string::npos) << says;
    EXPECT_EQ(steps_used_by(*p, part, part.steps[2]), std::vector<StepId>{id(1)});
    EXPECT_EQ(steps_used_by(*p, part, part.steps[3]), std::vector<StepId>{id(0)});
    EXPECT_TRUE(steps_used_by(*p, part, part.steps[0]).empty());
}

// Walking.

TEST(References, EveryExpressionOfADocumentIsMet) {
    ProjectPtr p = project_of(json::array({a_part("Vial", json::array({pin}))}), json::object(), {{"n", "2 mm"}});
    PartId vial = p->parts[0]->id;
    AssemblyPlace place;
    place.at[0] = "11 mm", place.turn[1] = "12 deg";
    p = edited(p, SetPlace{vial, place});
    PrintPose pose;
    pose.turn[0] = "13 deg";
    p = edited(p, SetPose{vial, pose});
    p = edited(p, KeepVariant{vial, "small"});
    std::string all;
    for (const std::string& e : expressions(*p)) all += e + "\n";
    for (const char* text : {"11 mm", "12 deg", "13 deg", "2 mm", "Vial, step 1, diameter", "variant small"})
        EXPECT_NE(all.find(text), std::string::npos) << text << " in\n" << all;
}
TEST(References, NothingChangedIsShared) {
    ProjectPtr p = project_of(json::array({a_part("A", json::array({pin})), a_part("B", json::array({pin}))}));
    Project same = with_references(*p, [](const Reference&) { return NewText(); });
    EXPECT_EQ(same.parts, p->parts);
    ProjectPtr one = edited(p, SetField{p->parts[0]->id, p->parts[0]->steps[0].id, "height", "9 mm"});
    EXPECT_NE(one->parts[0], p->parts[0]);
    EXPECT_EQ(one->parts[1], p->parts[1]);
}
TEST(References, WithExpressionsWritesThemWhereTheyStand) {
    ProjectPtr p =
        project_of(json::array({a_part("A", json::array({pin, block(1, 2, 3)}))}), json::object(), {{"n", "2 mm"}});
    Project doubled = with_expressions(*p, [](const Expression& e) -> NewText {
        if (e.place.in == Place::In::Step && e.place.name == "height") return "2 * (" + e.text + ")";
        return std::nullopt;
    });
    EXPECT_EQ(doubled.parts[0]->steps[0].fields.at("height").text(), "2 * (30)");
    EXPECT_EQ(doubled.parts[0]->steps[1], p->parts[0]->steps[1]);
    EXPECT_EQ(doubled.parameters, p->parameters);
}
TEST(References, FilesAreNamed) {
    ProjectPtr p = project_of(json::array({a_part("A", json::array({step("bring_in", {{"file", "knob.stl"}})}))}));
    EXPECT_EQ(files_named(*p), std::vector<std::string>{"knob.stl"});
    EXPECT_TRUE(named(*p).count("A, step 1, file -> knob.stl"));
}
TEST(References, ANameInAPartIsNoReferenceToAnother) {
    // A body called like a part: the part's renaming leaves it.
    ProjectPtr p = project_of(json::array(
        {a_part("Lid", json::array({pin})),
         a_part("Pot", json::array({block(9, 9, 9, "Lid"), step("move", {{"what", "Lid"}, {"by_x", 1}})}))}));
    p = edited(p, RenamePart{p->parts[0]->id, "Cap"});
    EXPECT_EQ(p->parts[1]->steps[1].fields.at("what").text(), "Lid");
}

// Places that cannot be worked out are said, and found.

TEST(References, APlaceThatIsLostIsAFinding) {
    // A file written elsewhere may name a number that is not there.
    ProjectPtr p = project_of(json::array(
        {{{"name", "Vial"}, {"steps", json::array({pin})}, {"place", {{"at", {"gone_n", "0 mm", "0 mm"}}}}}}));
    auto made = Evaluator().evaluate(p);
    ASSERT_TRUE(made);
    ASSERT_TRUE(made->parts[0].place_problem);
    EXPECT_NE(made->parts[0].place_problem->text().find("gone_n"), std::string::npos);
    EXPECT_TRUE(made->parts[0].place.matrix().isIdentity()) << "it stands at the origin";
    auto findings = all_findings(*made, nullptr);
    ASSERT_EQ(findings.size(), 1u);
    EXPECT_EQ(findings[0].finding.kind, FindingKind::LostPlace);
    EXPECT_NE(findings[0].finding.says.find("gone_n"), std::string::npos) << findings[0].finding.says;
    // Typed into the window it is refused at once.
    AssemblyPlace place;
    place.at[2] = "gone_n";
    EXPECT_NE(refusal(p, SetPlace{p->parts[0]->id, place}).find("gone_n"), std::string::npos);
}
TEST(References, PartsThatUseEachOtherAreSaidAsSuch) {
    ProjectPtr p = project_of(json::array(
        {a_part("A", json::array({block(20, 20, 20), step("cut_with", {{"tool", "B"}, {"fit", "slide"}})})),
         a_part("B", json::array({block(5, 5, 30), step("cut_with", {{"tool", "A"}, {"fit", "slide"}})}))}));
    auto made = Evaluator().evaluate(p);
    ASSERT_TRUE(made);
    bool said = false;
    for (const PartResult& part : made->parts)
        for (const StepOutcome& s : part.steps) said = said || (!s.ok && !s.says.empty());
    EXPECT_TRUE(said);
}
