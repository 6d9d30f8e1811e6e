// Every kind of step, walked: what holds for one holds for all. A new kind gets a sample and is in.
#include "kind_samples.h"
#include "project/analysis.h"
#include "project/archive.h"
#include "project/references.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

class Kinds : public ::testing::TestWithParam<std::string> {
  protected:
    void SetUp() override {
        project = sample_project(GetParam());
        tray = project->part_named("Tray");
        ASSERT_TRUE(tray && !tray->steps.empty());
        it = tray->steps.back();
        ASSERT_EQ(it.kind, GetParam());
    }
    Evaluation evaluate(const ProjectPtr& of) {
        auto result = evaluator.evaluate(of);
        EXPECT_TRUE(result) << (result ? "" : result.error().text());
        return result.value_or(Evaluation{});
    }
    static std::string failures(const Evaluation& evaluation) {
        std::string text;
        for (const PartResult& part : evaluation.parts)
            for (const StepOutcome& s : part.steps)
                if (!s.ok) text += part.name + ": " + s.says + "\n";
        return text;
    }
    static double volume(const Evaluation& evaluation, PartId part) { return evaluation.part(part)->mass.volume_mm3; }
    ProjectPtr edited(const ProjectPtr& of, const Edit& edit) {
        auto next = apply_edit(*of, edit);
        EXPECT_TRUE(next) << (next ? "" : next.error().text());
        return next ? next->project : of;
    }
    Evaluator evaluator;
    ProjectPtr project;
    PartPtr tray;
    Step it;
};

std::vector<std::string> all_kinds() {
    std::vector<std::string> ids;
    for (const StepKind& kind : step_kinds()) ids.push_back(kind.id);
    return ids;
}

double surface_area(const TriMesh& mesh) {
    double area = 0;
    for (size_t i = 0; i < mesh.triangles.size(); ++i)
        area += (mesh.corner(i, 1) - mesh.corner(i, 0)).cross(mesh.corner(i, 2) - mesh.corner(i, 0)).norm() / 2;
    return area;
}

} // namespace

INSTANTIATE_TEST_SUITE_P(All, Kinds, ::testing::ValuesIn(all_kinds()),
                         [](const auto& info) { return std::string(info.param); });

TEST_P(Kinds, WorksSavesAndReopensTheSame) {
    Evaluation made = evaluate(project);
    ASSERT_EQ(failures(made), "");
    // Through the file on disk, with its imports.
    Folder folder;
    History history(project);
    ASSERT_FALSE(save_project(folder / "kept.loosepeg", history));
    auto opened = open_project(folder / "kept.loosepeg");
    ASSERT_TRUE(opened) << (opened ? "" : opened.error().text());
    EXPECT_EQ(project_to_json(*opened->history.now()), project_to_json(*project));
    Evaluator fresh;
    auto again = fresh.evaluate(opened->history.now());
    ASSERT_TRUE(again);
    EXPECT_EQ(failures(*again), "");
    EXPECT_NEAR(volume(*again, tray->id), volume(made, tray->id), 1e-9 * std::abs(volume(made, tray->id)));
    EXPECT_EQ(again->part(tray->id)->bodies.size(), made.part(tray->id)->bodies.size());
    EXPECT_EQ(again->part(tray->id)->key, made.part(tray->id)->key) << "its keys do not hang on the process";
}

TEST_P(Kinds, IsSwitchedOffTakenOutAndUndone) {
    Evaluation made = evaluate(project);
    History history(project);
    for (const Edit& edit : {Edit(SwitchStep{tray->id, it.id, false}), Edit(RemoveStep{tray->id, it.id}),
                             Edit(SetQuantity{tray->id, 3})}) {
        auto next = apply_edit(*history.now(), edit);
        ASSERT_TRUE(next) << next.error().text();
        history.push(*next);
    }
    EXPECT_EQ(history.now()->part(tray->id)->step(it.id), nullptr);
    Evaluation without = evaluate(history.now());
    EXPECT_EQ(failures(without), "");
    while (history.can_undo()) history.undo();
    EXPECT_EQ(history.now(), project);
    EXPECT_EQ(volume(evaluate(history.now()), tray->id), volume(made, tray->id));
    while (history.can_redo()) history.redo();
    EXPECT_EQ(volume(evaluate(history.now()), tray->id), volume(without, tray->id));
}

TEST_P(Kinds, FollowsEveryRenaming) {
    Evaluation made = evaluate(project);
    ProjectPtr renamed = project;
    for (const PartPtr& part : project->parts) {
        renamed = edited(renamed, RenamePart{part->id, "Renamed " + part->name});
        for (const Step& s : part->steps)
            if (!s.name.empty()) renamed = edited(renamed, NameStep{part->id, s.id, "other " + s.name});
    }
    Evaluation after = evaluate(renamed);
    EXPECT_EQ(failures(after), "") << project_to_json(*renamed).dump(1);
    EXPECT_NEAR(volume(after, tray->id), volume(made, tray->id), 1e-9 * std::abs(volume(made, tray->id)));
    // And back: nothing was lost on the way.
    for (const PartPtr& part : project->parts) {
        renamed = edited(renamed, RenamePart{part->id, part->name});
        for (const Step& s : part->steps)
            if (!s.name.empty()) renamed = edited(renamed, NameStep{part->id, s.id, s.name});
    }
    EXPECT_EQ(project_to_json(*renamed), project_to_json(*project));
}

TEST_P(Kinds, FollowsANumberThatIsRenamed) {
    const StepField* length = nullptr;
    for (const StepField& field : find_step_kind(it.kind)->fields)
        if (field.kind == FieldKind::Length && !length) length = &field;
    if (!length) GTEST_SKIP() << "no length";
    std::string typed = field_text(it, *length);
    if (typed.empty()) typed = "0 mm";
    auto next = apply_edit(*project, SetField{tray->id, it.id, length->name, typed + " + 0 * number"});
    ASSERT_TRUE(next) << next.error().text();
    auto refused = apply_edit(*next->project, RemoveParameter{"number"});
    ASSERT_FALSE(refused);
    EXPECT_NE(refused.error().text().find("Tray, step"), std::string::npos) << refused.error().text();
    ProjectPtr renamed = edited(next->project, RenameParameter{"number", "other"});
    EXPECT_EQ(field_text(*renamed->step(tray->id, it.id), *length), typed + " + 0 * other");
    EXPECT_TRUE(apply_edit(*renamed, SetField{tray->id, it.id, length->name, typed})) << typed;
}

TEST_P(Kinds, CopiedElsewhereItNamesNothingThatIsNotThere) {
    PartPtr spare = project->part_named("Spare");
    auto copied = apply_edit(*project, CopyStep{tray->id, it.id, spare->id});
    ASSERT_TRUE(copied) << copied.error().text();
    PartPtr now = copied->project->part(spare->id);
    ASSERT_EQ(now->steps.size(), 1u);
    EXPECT_FALSE(copied->project->step(spare->id, it.id)) << "a step of its own";
    each_reference(*copied->project, *now, now->steps[0], [&](const Reference& r) {
        bool own = r.to == RefersTo::Step || r.to == RefersTo::Body || r.to == RefersTo::Face;
        if (own) {
            EXPECT_NE(r.part, tray->id) << r.place.words << ": " << r.name;
        }
    });
    Evaluation made = evaluate(copied->project); // works or says why; the part it came from is untouched
    EXPECT_NEAR(volume(made, tray->id), volume(evaluate(project), tray->id), 1e-6);
    for (const StepOutcome& s : made.part(spare->id)->steps) EXPECT_TRUE(s.ok || s.says.size() > 10) << s.says;
}

TEST_P(Kinds, HostileFieldsAreRefusedOrSaidAndNothingElseIsLost) {
    const StepKind& kind = *find_step_kind(it.kind);
    size_t before = evaluate(project).part(tray->id)->bodies.size();
    for (const StepField& field : kind.fields) {
        std::vector<std::string> texts{"no such thing", "\"]{", std::string(3000, 'x')};
        if (is_quantity(field.kind)) texts = {"0", "-1", "1e300", "1 / 0", "5 deg mm", "nan", "(((("};
        for (const std::string& text : texts) {
            auto next = apply_edit(*project, SetField{tray->id, it.id, field.name, text});
            if (!next) {
                EXPECT_FALSE(next.error().text().empty());
                continue;
            }
            EXPECT_FALSE(is_quantity(field.kind) && text.size() > 3) << field.name << " took " << text;
            auto made = evaluator.evaluate(next->project);
            ASSERT_TRUE(made) << field.name << " " << text;
            const PartResult& part = *made->part(tray->id);
            const StepOutcome& last = part.steps.back();
            EXPECT_TRUE(last.ok || last.says.size() > 10) << field.name << " " << text;
            for (size_t i = 0; i + 1 < part.steps.size(); ++i) EXPECT_TRUE(part.steps[i].ok) << part.steps[i].says;
            EXPECT_TRUE(last.ok || part.steps.size() == 1 || part.bodies.size() + 1 >= std::min<size_t>(before, 2));
        }
    }
}

TEST_P(Kinds, StoppedItLeavesNothingHalfAndGoesOnAfter) {
    Task stopped;
    stopped.cancel.cancel();
    auto none = evaluator.evaluate(project, stopped);
    ASSERT_FALSE(none);
    EXPECT_EQ(none.error().code, ProblemCode::Cancelled);
    Task midway;
    midway.progress = [token = midway.cancel](const std::string&, double share) {
        if (share > 0.3) token.cancel();
    };
    if (auto half = evaluator.evaluate(project, midway); !half) {
        EXPECT_EQ(half.error().code, ProblemCode::Cancelled);
    }
    Evaluation whole = evaluate(project);
    EXPECT_EQ(failures(whole), "");
    EXPECT_NEAR(volume(whole, tray->id), volume(*Evaluator().evaluate(project), tray->id), 1e-9);
}

TEST_P(Kinds, OpensAnotherPartByItsGrownSelf) {
    // A big block is opened for the tray at a gap of 0.3: the hole is larger than the tray, by about gap x area.
    Evaluation nominal = evaluate(project);
    const PartResult& tool = *nominal.part(tray->id);
    if (tool.bodies.empty()) GTEST_SKIP() << "no body";
    Vec3 size = tool.box.sizes() + Vec3::Constant(40), middle = tool.box.center();
    Part host;
    host.name = "Host";
    host.steps = {step_of_kind("block", {{"size_x", std::to_string(size.x())},
                                         {"size_y", std::to_string(size.y())},
                                         {"size_z", std::to_string(size.z())},
                                         {"at_x", std::to_string(middle.x())},
                                         {"at_y", std::to_string(middle.y())},
                                         {"at_z", std::to_string(middle.z())},
                                         {"from", "centre"}}),
                  step_of_kind("cut_with", {{"tool", "Tray"}, {"fit", "0.3 mm"}})};
    ProjectPtr with = edited(project, AddPart{host});
    Evaluation made = evaluate(with);
    const PartResult& opened = *made.part(with->part_named("Host")->id);
    double whole = size.prod();
    ASSERT_TRUE(opened.steps[1].ok) << opened.steps[1].says;
    if (tool.bodies.size() > 1) return; // they may stand in each other
    double hole = whole - opened.mass.volume_mm3;
    double solid = tool.mass.volume_mm3, area = surface_area(tool.bodies[0].body.mesh());
    EXPECT_GT(hole, solid + 0.3 * area * 0.5) << "grown on every face";
    EXPECT_LT(hole, solid + 0.3 * area * 1.3 + 60) << "and by no more than the gap";
}
