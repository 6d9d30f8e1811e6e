#include "formats/formats.h"
#include "formats/stl.h"
#include "project/analysis.h"
#include "project/archive.h"
#include "project/edit.h"
#include "project/project_json.h"
#include "test_meshes.h"
#include <fstream>
#include <nlohmann/json.hpp>

using namespace lp;
using std::numbers::pi;

namespace {
const char* peg_and_plate = R"({"format":"loose-peg","version":1,"name":"T","parameters":{"peg_d":"6 mm"},"parts":[
 {"name":"Peg","steps":[{"kind":"cylinder","fields":{"diameter":"peg_d","height":30,"along":"x","from":"centre"}}]},
 {"name":"Plate","steps":[{"kind":"block","fields":{"size_x":10,"size_y":20,"size_z":20,"from":"centre"}},{"kind":"cut_with","fields":{"tool":"Peg","fit":"slide"}}]}]})";

ProjectPtr project_of(const std::string& text) {
    auto project = project_from_text(text);
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    return std::make_shared<const Project>(project.value_or(Project{}));
}
ProjectPtr edited(const ProjectPtr& project, const Edit& edit) {
    auto next = apply_edit(*project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    return next ? next->project : project;
}
Evaluation made(Evaluator& evaluator, const ProjectPtr& project) {
    auto e = evaluator.evaluate(project);
    EXPECT_TRUE(e);
    return e.value_or(Evaluation{});
}
std::string step(const std::string& kind, const std::string& fields) {
    return R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":")" + kind + R"(","fields":{)" +
           fields + "}}]}]}";
}
double volume_of(const std::string& text) {
    Evaluator evaluator;
    Evaluation e = made(evaluator, project_of(text));
    EXPECT_TRUE(e.parts.at(0).all_ok()) << e.parts[0].steps[0].says;
    return e.parts[0].mass.volume_mm3;
}
} // namespace

TEST(Steps, SolidsHaveTheirFormulasVolumes) {
    EXPECT_NEAR(volume_of(step("block", R"("size_x":"1 in","size_y":10,"size_z":"2 cm")")), 25.4 * 200, 1e-6);
    EXPECT_NEAR(volume_of(step("prism", R"("sides":6,"across":8,"measured":"flats","height":4)")),
                std::sqrt(3) / 2 * 64 * 4, 1e-6); // A = (sqrt 3 / 2) w^2, tables.md
    EXPECT_NEAR(volume_of(step("prism", R"("sides":4,"across":10,"measured":"corners","height":3)")), 50 * 3, 1e-6);
    EXPECT_NEAR(volume_of(step("cone", R"("diameter":20,"top_diameter":10,"height":12)")), 2199.115, 1e-3);
}
TEST(Steps, EverySolidStandsWhereItIsPut) {
    for (const char* along : {"x", "y", "z", "-x", "-y", "-z"}) {
        Evaluator evaluator;
        Evaluation e = made(
            evaluator, project_of(step("cylinder",
                                       std::string(R"("diameter":4,"height":10,"at_x":1,"at_y":2,"at_z":3,"along":")") +
                                           along + "\"")));
        Vec3 direction = Vec3::Zero();
        direction[along[strlen(along) - 1] - 'x'] = along[0] == '-' ? -1 : 1;
        EXPECT_NEAR((e.parts[0].mass.centre - (Vec3(1, 2, 3) + 5 * direction)).norm(), 0, 1e-9) << along;
    }
}
TEST(Steps, EveryKindDeclaresASentenceOfItsOwnFields) {
    for (const StepKind& kind : step_kinds()) {
        for (size_t at = kind.sentence.find('{'); at != std::string::npos; at = kind.sentence.find('{', at + 1)) {
            std::string name = kind.sentence.substr(at + 1, kind.sentence.find('}', at) - at - 1);
            EXPECT_NE(kind.field(name), nullptr) << kind.id << " " << name;
        }
        for (const StepField& field : kind.fields) {
            if (is_quantity(field.kind)) {
                EXPECT_TRUE(evaluate_expression(field.standard, quantity_of(field.kind), {}))
                    << kind.id << " " << field.name;
            }
            if (field.kind == FieldKind::Choice) {
                EXPECT_EQ(std::count(field.choices.begin(), field.choices.end(), field.standard), 1)
                    << kind.id << " " << field.name;
            }
        }
    }
}
TEST(Steps, MoveAndTurnAreRigid) {
    Evaluator evaluator;
    Evaluation e = made(
        evaluator,
        project_of(
            R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"block","fields":{"size_x":10,"size_y":2,"size_z":2,"from":"corner"}},
        {"kind":"turn","fields":{"angle":90,"axis":"z"}},{"kind":"move","fields":{"by_z":"1 in"}}]}]})"));
    EXPECT_NEAR((e.parts[0].mass.centre - Vec3(-1, 5, 1 + 25.4)).norm(), 0, 1e-9);
    EXPECT_NEAR(e.parts[0].mass.volume_mm3, 40, 1e-9);
}
TEST(Steps, BodiesOfTheirOwnAreJoinedCutAndKeptByNumber) {
    auto with = [](const std::string& last) {
        return R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"id":1,"kind":"block","fields":{"size_x":10,"size_y":10,"size_z":10,"from":"corner","does":"new"}},
          {"id":2,"kind":"block","name":"second","fields":{"size_x":10,"size_y":10,"size_z":10,"at_x":5,"from":"corner","does":"new"}},)" +
               last + "]}]}";
    };
    EXPECT_NEAR(volume_of(with(R"({"kind":"join","fields":{"what":"all"}})")), 1500, 1e-6);
    EXPECT_NEAR(volume_of(with(R"({"kind":"cut","fields":{"from":"1","what":"second"}})")), 500, 1e-6);
    EXPECT_NEAR(volume_of(with(R"({"kind":"common","fields":{"what":["1","second"]}})")), 500, 1e-6);
    Evaluator evaluator;
    Evaluation e = made(evaluator, project_of(with(R"({"kind":"join","fields":{"what":"third"}})")));
    EXPECT_FALSE(e.parts[0].all_ok());
    EXPECT_NE(e.parts[0].steps[2].says.find("third"), std::string::npos);
    EXPECT_EQ(e.parts[0].bodies.size(), 2u); // the rest stays
}

TEST(CutWith, TheHoleIsThePegGrownByTheFit) {
    Evaluator evaluator;
    ProjectPtr project = project_of(peg_and_plate);
    Evaluation e = made(evaluator, project);
    EXPECT_NEAR(e.parts[1].mass.volume_mm3, 4000 - pi * 3.25 * 3.25 * 10, 1e-4);
    // The maker sets the contact from slide to loose: the hole opens by the difference.
    PartId plate = project->parts[1]->id;
    StepId cut = project->parts[1]->steps[1].id;
    ProjectPtr loose = edited(project, SetField{plate, cut, "fit", "loose"});
    EXPECT_NEAR(made(evaluator, loose).parts[1].mass.volume_mm3, 4000 - pi * 3.4 * 3.4 * 10, 1e-4);
    ProjectPtr typed = edited(project, SetField{plate, cut, "fit", "0.3 mm"});
    EXPECT_NEAR(made(evaluator, typed).parts[1].mass.volume_mm3, 4000 - pi * 3.3 * 3.3 * 10, 1e-4);
}
TEST(CutWith, TheLedgerMeasuresWhatTheFitWanted) {
    for (const char* fit : {"press", "snug", "slide", "loose", "free"}) {
        Evaluator evaluator;
        ProjectPtr project = project_of(peg_and_plate);
        project = edited(project, SetField{project->parts[1]->id, project->parts[1]->steps[1].id, "fit", fit});
        auto contacts = Analyser().contacts(made(evaluator, project));
        ASSERT_EQ(contacts.size(), 1u);
        ASSERT_TRUE(contacts[0].gap && contacts[0].wanted);
        EXPECT_EQ(contacts[0].state, FitState::Right) << fit;
        EXPECT_NEAR(contacts[0].gap->min_mm, contacts[0].wanted->gap_mm, 0.011);
        EXPECT_NEAR(*contacts[0].gap->max_mm, contacts[0].wanted->gap_mm, 0.011);
    }
}
TEST(CutWith, AMovedPegGoesTight) {
    ProjectPtr project = project_of(peg_and_plate);
    // The hole is cut where the peg stands; then the plate is moved by a step, and the peg is no longer in its middle.
    PartId plate = project->parts[1]->id;
    for (auto [by, gap, state] :
         {std::tuple("0.1 mm", 0.15, FitState::Tight), std::tuple("0.2 mm", 0.05, FitState::Tight),
          std::tuple("0 mm", 0.25, FitState::Right)}) {
        Evaluator evaluator;
        ProjectPtr moved = edited(project, AddStep{plate, step_of_kind("move", {{"by_y", by}}), {}});
        auto contacts = Analyser().contacts(made(evaluator, moved));
        ASSERT_EQ(contacts.size(), 1u);
        ASSERT_TRUE(contacts[0].gap) << by;
        EXPECT_NEAR(contacts[0].gap->min_mm, gap, 0.011);
        EXPECT_EQ(contacts[0].state, state) << by;
    }
    Evaluator evaluator;
    ProjectPtr through = edited(project, AddStep{plate, step_of_kind("move", {{"by_y", "0.4 mm"}}), {}});
    EXPECT_EQ(Analyser().contacts(made(evaluator, through)).at(0).state, FitState::Overlapping);
}
TEST(CutWith, GrownToolsKeepTheGapRoundEverySolid) {
    const std::pair<const char*, const char*> tools[] = {
        {"block", R"("size_x":6,"size_y":7,"size_z":8,"from":"centre")"},
        {"sphere", R"("diameter":8)"},
        {"cone", R"("diameter":9,"top_diameter":4,"height":8,"from":"centre")"},
        {"cone", R"("diameter":9,"top_diameter":0,"height":8,"from":"centre")"},
        {"cone", R"("diameter":0,"top_diameter":9,"height":8,"from":"centre")"},
        {"prism", R"("sides":6,"across":8,"height":8,"from":"centre")"}};
    for (auto [kind, fields] : tools) {
        std::string text =
            std::string(
                R"({"format":"loose-peg","version":1,"parts":[{"name":"Tool","stand_in":true,"steps":[{"kind":")") +
            kind + R"(","fields":{)" + fields +
            R"(}},{"kind":"turn","fields":{"angle":33,"axis":"x"}}]},{"name":"Host","steps":[{"kind":"block","fields":{"size_x":30,"size_y":30,"size_z":30,"from":"centre"}},{"kind":"cut_with","fields":{"tool":"Tool","fit":"0.4 mm"}}]}]})";
        Evaluator evaluator;
        Evaluation e = made(evaluator, project_of(text));
        ASSERT_TRUE(e.parts[1].all_ok()) << kind << e.parts[1].steps[1].says;
        auto contacts = Analyser().contacts(e);
        ASSERT_EQ(contacts.size(), 1u) << kind;
        ASSERT_TRUE(contacts[0].gap) << kind;
        EXPECT_NEAR(contacts[0].gap->min_mm, 0.4, 0.015) << kind << fields;
        EXPECT_EQ(contacts[0].state, FitState::Right);
    }
}
TEST(CutWith, PartsThatCutEachOtherInACircleAreNamed) {
    Evaluator evaluator;
    Evaluation e = made(evaluator, project_of(R"({"format":"loose-peg","version":1,"parts":[
      {"name":"A","steps":[{"kind":"block"},{"kind":"cut_with","fields":{"tool":"B"}}]},{"name":"B","steps":[{"kind":"block"},{"kind":"cut_with","fields":{"tool":"A"}}]}]})"));
    EXPECT_FALSE(e.parts[0].steps[1].ok);
    EXPECT_NE(e.parts[0].steps[1].says.find("circle"), std::string::npos) << e.parts[0].steps[1].says;
}

TEST(Evaluation, OnlyWhatChangedIsMadeAgain) {
    Evaluator evaluator;
    ProjectPtr project = project_of(peg_and_plate);
    made(evaluator, project);
    EXPECT_EQ(evaluator.last_counts().made, 4u); // peg, peg grown for the cut, block, cut
    made(evaluator, project);
    EXPECT_EQ(evaluator.last_counts().made, 0u);
    // The plate's height does not concern the peg.
    made(evaluator,
         edited(project, SetField{project->parts[1]->id, project->parts[1]->steps[0].id, "size_z", "25 mm"}));
    EXPECT_EQ(evaluator.last_counts().made, 2u);
}
TEST(Evaluation, AParameterDrivesPegAndHole) {
    Evaluator evaluator;
    Evaluation e = made(evaluator, edited(project_of(peg_and_plate), SetParameter{"peg_d", "8 mm", {}, {}}));
    EXPECT_NEAR(e.parts[0].mass.volume_mm3, pi * 16 * 30, 1e-6);
    EXPECT_NEAR(e.parts[1].mass.volume_mm3, 4000 - pi * 4.25 * 4.25 * 10, 1e-4);
}
TEST(Evaluation, AFailedStepSaysWhyAndTheRestGoesOn) {
    Evaluator evaluator;
    Evaluation e = made(
        evaluator,
        project_of(
            R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"block"},{"kind":"cylinder","fields":{"diameter":"nonsense"}},{"kind":"sphere","fields":{"at_z":20}}]}]})"));
    EXPECT_TRUE(e.parts[0].steps[0].ok);
    EXPECT_FALSE(e.parts[0].steps[1].ok);
    EXPECT_NE(e.parts[0].steps[1].says.find("\"nonsense\""), std::string::npos);
    EXPECT_TRUE(e.parts[0].steps[2].ok);
    EXPECT_NE(e.parts[0].mesh, nullptr);
}
TEST(Evaluation, StopsOnRequestAndKeepsWhatWasMade) {
    std::string parts;
    for (int i = 0; i < 30; ++i)
        parts += std::string(i ? "," : "") + R"({"name":"Peg )" + std::to_string(i) +
                 R"(","steps":[{"kind":"block","fields":{"size_x":5,"size_y":5,"size_z":)" + std::to_string(i + 1) +
                 "}}]}";
    ProjectPtr project = project_of(R"({"format":"loose-peg","version":1,"parts":[)" + parts + "]}");
    Evaluator evaluator;
    Task before;
    before.cancel.cancel();
    EXPECT_FALSE(evaluator.evaluate(project, before));
    // Half-way: nothing half is handed out, and what was made until then is not made again.
    Task task;
    int told = 0;
    task.progress = [&](const std::string&, double) {
        if (++told == 15) task.cancel.cancel();
    };
    auto half = evaluator.evaluate(project, task);
    ASSERT_FALSE(half);
    EXPECT_EQ(half.error().code, ProblemCode::Cancelled);
    Evaluation whole = made(evaluator, project);
    EXPECT_GE(evaluator.last_counts().reused, 10u);
    EXPECT_GE(evaluator.last_counts().made, 10u);
    for (size_t i = 0; i < 30; ++i) EXPECT_NEAR(whole.parts[i].mass.volume_mm3, 25.0 * double(i + 1), 1e-6);
}

TEST(Edits, RefuseWhatCannotBeReadOrIsOutOfLimits) {
    ProjectPtr project = project_of(peg_and_plate);
    PartId peg = project->parts[0]->id;
    StepId step = project->parts[0]->steps[0].id;
    for (const char* bad : {"", "abc", "0", "-1", "1e9", "5 deg", "1/0"})
        EXPECT_FALSE(apply_edit(*project, SetField{peg, step, "diameter", bad})) << bad;
    EXPECT_FALSE(apply_edit(*project, SetField{peg, step, "along", "w"}));
    EXPECT_FALSE(apply_edit(*project, SetField{peg, StepId(999), "diameter", "5"}));
    EXPECT_FALSE(apply_edit(*project, SetParameter{"peg_d", "peg_d + 1", {}, {}}));
}
TEST(Edits, TypingANameAndAnEqualsSignMakesTheParameter) {
    ProjectPtr project = project_of(peg_and_plate);
    PartId peg = project->parts[0]->id;
    StepId step = project->parts[0]->steps[0].id;
    ProjectPtr next = edited(project, edit_from_typed(*project, peg, step, "height", "peg_l = 40 mm"));
    EXPECT_EQ(next->parts[0]->steps[0].fields.at("height"), "peg_l");
    ASSERT_EQ(next->parameters.size(), 2u);
    EXPECT_EQ(next->parameters[1].expression, "40 mm");
}
TEST(Edits, AParameterInUseIsNotRemovedAndRenamingUpdatesItsUses) {
    ProjectPtr project = project_of(peg_and_plate);
    auto refused = apply_edit(*project, RemoveParameter{"peg_d"});
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().sentence.find("Peg, step 1, diameter"), std::string::npos);
    ProjectPtr renamed = edited(project, RenameParameter{"peg_d", "pin"});
    EXPECT_EQ(renamed->parts[0]->steps[0].fields.at("diameter"), "pin");
}
TEST(Edits, ARenamedPartIsStillTheTool) {
    ProjectPtr project = project_of(peg_and_plate);
    ProjectPtr renamed = edited(project, RenamePart{project->parts[0]->id, "Axle"});
    EXPECT_EQ(renamed->parts[1]->steps[1].fields.at("tool"), "Axle");
    EXPECT_FALSE(apply_edit(*renamed, RemovePart{renamed->parts[0]->id}));
    EXPECT_FALSE(apply_edit(*renamed, RenamePart{renamed->parts[0]->id, "Plate"}));
}
TEST(Edits, UnchangedPartsAreShared) {
    ProjectPtr project = project_of(peg_and_plate);
    ProjectPtr next = edited(project, SetQuantity{project->parts[0]->id, 4});
    EXPECT_NE(next->parts[0], project->parts[0]);
    EXPECT_EQ(next->parts[1], project->parts[1]);
}
TEST(History, GoesBackAndForthWithItsSentences) {
    History history(project_of(peg_and_plate));
    auto edit = apply_edit(*history.now(), SetParameter{"peg_d", "7 mm", {}, {}});
    ASSERT_TRUE(edit);
    history.push(*edit);
    EXPECT_EQ(history.undo_sentence(), "peg_d = 7 mm");
    history.undo();
    EXPECT_EQ(history.now()->parameters[0].expression, "6 mm");
    EXPECT_TRUE(history.can_redo());
    history.redo();
    EXPECT_EQ(history.now()->parameters[0].expression, "7 mm");
}

TEST(ProjectFile, ComesBackAsItWasWithItsHistory) {
    test::Folder folder;
    History history(project_of(peg_and_plate));
    for (const char* size : {"7 mm", "8 mm", "9 mm"})
        history.push(*apply_edit(*history.now(), SetParameter{"peg_d", size, {}, {}}));
    history.undo();
    auto path = folder / "a.loosepeg";
    ASSERT_FALSE(save_project(path, history, "png"));
    auto opened = open_project(path);
    ASSERT_TRUE(opened) << opened.error().text();
    EXPECT_EQ(project_to_json(*opened->history.now()), project_to_json(*history.now()));
    EXPECT_EQ(opened->history.entries().size(), 4u);
    EXPECT_EQ(opened->history.redo_sentence(), "peg_d = 9 mm");
    opened->history.undo();
    EXPECT_EQ(opened->history.now()->parameters[0].expression, "7 mm");
    ASSERT_FALSE(save_project(path, opened->history));
    EXPECT_TRUE(open_project(folder / "a.loosepeg~")); // the one before is kept
}
TEST(ProjectFile, UnknownFieldsAreKept) {
    auto project = project_from_text(
        R"({"format":"loose-peg","version":1,"later":{"x":1},"parts":[{"name":"P","hue":3,"steps":[{"kind":"block","why":"because"}]}]})");
    ASSERT_TRUE(project);
    auto json = project_to_json(*project);
    EXPECT_EQ(json["later"]["x"], 1);
    EXPECT_EQ(json["parts"][0]["hue"], 3);
    EXPECT_EQ(json["parts"][0]["steps"][0]["why"], "because");
}
TEST(ProjectFile, DamagedAndHostileFilesAreRefusedInWords) {
    test::Folder folder;
    auto path = folder / "a.loosepeg";
    ASSERT_FALSE(save_project(path, History(project_of(peg_and_plate))));
    std::string whole = *read_file(path);
    for (size_t keep : {size_t(0), size_t(3), whole.size() / 3, whole.size() / 2, whole.size() - 1}) {
        std::ofstream(folder / "cut.loosepeg", std::ios::binary) << whole.substr(0, keep);
        EXPECT_FALSE(open_project(folder / "cut.loosepeg")) << keep;
    }
    for (
        const char* text :
        {"[]", "{}", "not json", R"({"format":"loose-peg","version":99})",
         R"({"format":"loose-peg","version":1,"parts":7})",
         R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"sorcery"}]}]})",
         R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"block","fields":{"size_q":1}}]}]})",
         R"({"format":"loose-peg","version":1,"parts":[{"name":"P"},{"name":"P"}]})",
         R"({"format":"loose-peg","version":1,"parameters":[{"name":"mm","expression":1}]})",
         R"({"format":"loose-peg","version":1,"printer":{"layer_height_mm":"x"}})",
         // Whole numbers that none can hold.
         R"({"format":"loose-peg","version":1,"parts":[{"name":"P","quantity":66666666666666666666666666666666666662}]})",
         R"({"format":"loose-peg","version":1,"parts":[{"name":"P","quantity":-1e300}]})",
         R"({"format":"loose-peg","version":1,"printer":{"walls":1e20}})",
         R"({"format":"loose-peg","version":1,"next_id":-5.5e9})"}) {
        auto project = project_from_text(text);
        ASSERT_FALSE(project) << text;
        EXPECT_FALSE(project.error().sentence.empty());
    }
    EXPECT_FALSE(project_from_text(std::string(100000, '[')));
    EXPECT_FALSE(open_project(folder.path));
    EXPECT_FALSE(open_project(folder / "nothing"));
    std::ofstream(folder / "p.json")
        << R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"bring_in","fields":{"file":"../../etc/passwd"}}]}]})";
    EXPECT_FALSE(open_project(folder / "p.json"));
}
TEST(ProjectFile, ABareProjectTakesItsImportsFromBesideIt) {
    test::Folder folder;
    ASSERT_FALSE(write_file_safely(folder / "cube.stl", write_stl_binary(test::cube(10))));
    std::ofstream(folder / "project.json")
        << R"({"format":"loose-peg","version":1,"parts":[{"name":"P","steps":[{"kind":"bring_in","fields":{"file":"cube.stl","scale":2}}]}]})";
    auto opened = open_project(folder / "project.json");
    ASSERT_TRUE(opened);
    Evaluator evaluator;
    EXPECT_NEAR(made(evaluator, opened->history.now()).parts[0].mass.volume_mm3, 8000, 1e-3);
    // Saved, the import travels inside.
    ASSERT_FALSE(save_project(folder / "all.loosepeg", opened->history));
    std::filesystem::remove(folder / "cube.stl");
    auto again = open_project(folder / "all.loosepeg");
    ASSERT_TRUE(again);
    EXPECT_TRUE(again->notes.empty());
    EXPECT_NEAR(made(evaluator, again->history.now()).parts[0].mass.volume_mm3, 8000, 1e-3);
}
TEST(ProjectFile, WhatADeadWindowLeftIsOffered) {
    test::Folder folder;
    History history(project_of(peg_and_plate));
    Autosave mine(folder.path);
    ASSERT_FALSE(mine.write(history, "/somewhere/t.loosepeg"));
    EXPECT_TRUE(mine.left_behind().empty());                                     // its own is not offered
    std::filesystem::rename(mine.file(), folder / "autosave-99999999.loosepeg"); // no such process
    auto left = mine.left_behind();
    ASSERT_EQ(left.size(), 1u);
    EXPECT_EQ(left[0].project_path, "/somewhere/t.loosepeg");
    EXPECT_EQ(left[0].name, "T");
}
TEST(ProjectFile, WritingIntoNothingFailsAndLeavesNothing) {
    auto failed = save_project("/nonexistent/folder/a.loosepeg", History(project_of(peg_and_plate)));
    ASSERT_TRUE(failed);
    EXPECT_NE(failed->sentence.find("could not be written"), std::string::npos);
}
