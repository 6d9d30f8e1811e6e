// Where copies stand on the beds: kept, saved, shown and written at the same places; what cannot stay is told.
#include "handoff/export_project.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

ProjectPtr edited(const ProjectPtr& project, const Edit& edit) {
    auto next = apply_edit(*project, edit);
    EXPECT_TRUE(next) << (next ? "" : next.error().text());
    return next ? next->project : project;
}

BedPlan plan_of(const Made& m, const Project& project) {
    return bed_plan(project, [&](const Part& part, double turn_deg) {
        const PartResult* made = m.evaluation.part(part.id);
        return made && made->mesh ? turned_box(*made->mesh, turn_deg) : Box3();
    });
}

/// A kit: three plates of 60 x 40 and two pins across 20.
Made kit() {
    Made m = make_parts({{"Plate", json::array({block(60, 40, 5)})},
                         {"Pin", json::array({step("cylinder", {{"diameter", 20}, {"height", 30}})})}});
    ProjectPtr project = m.project;
    project = edited(project, SetQuantity{project->parts[0]->id, 3});
    project = edited(project, SetQuantity{project->parts[1]->id, 2});
    m.project = project;
    m.evaluation.project = project;
    return m;
}

std::vector<PartFinding> told(const Made& m, FindingKind kind) {
    auto analysis = Analyser().analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    std::vector<PartFinding> found;
    for (PartFinding& f : all_findings(m.evaluation, &*analysis))
        if (f.finding.kind == kind) found.push_back(std::move(f));
    return found;
}

} // namespace

TEST(BedPlan, RowsInTheMiddleUntilSomethingIsPut) {
    const Made m = kit();
    BedPlan plan = plan_of(m, *m.project);
    ASSERT_EQ(plan.items.size(), 5u);
    EXPECT_EQ(plan.beds, 1u);
    Box2 all;
    for (const BedItem& item : plan.items) {
        EXPECT_FALSE(item.put || item.past_border);
        const TriMesh stands = transformed(*m.evaluation.part(item.part)->mesh, item.stand);
        const Box3 box = bounding_box(stands);
        EXPECT_LT((box.center().head<2>() - item.spot.at).norm(), 1e-9);
        all.extend(Vec2(box.min().head<2>()));
        all.extend(Vec2(box.max().head<2>()));
    }
    EXPECT_LT((all.center() - Vec2(110, 110)).norm(), 1e-9);
    // One is put: it stands there, turned; those that were put nowhere keep to beds of their own.
    const PartId plate = m.project->parts[0]->id;
    SetStands put;
    put.stands[plate][1] = {{0, {50, 60}, 90}, true};
    ProjectPtr project = edited(m.project, put);
    plan = plan_of(m, *project);
    EXPECT_EQ(plan.beds, 2u);
    const Box3 box = bounding_box(transformed(*m.evaluation.part(plate)->mesh, plan.items[1].stand));
    EXPECT_LT((box.min().head<2>() - Vec2(30, 30)).norm(), 1e-9) << "40 wide, 60 deep, its middle there";
    EXPECT_LT((box.max().head<2>() - Vec2(70, 90)).norm(), 1e-9);
    EXPECT_TRUE(plan.items[1].put && plan.items[1].locked);
    EXPECT_EQ(plan.items[0].spot.bed, 1u);
}

TEST(BedPlan, ArrangedRoundWhatIsLockedAndExportedAtTheSamePlaces) {
    Made m = kit();
    const PartId plate = m.project->parts[0]->id, pin = m.project->parts[1]->id;
    SetStands put;
    put.stands[plate][0] = {{0, {110, 110}, 30}, true};
    m.project = edited(m.project, put);
    std::vector<BedThing> things;
    for (PartId id : {plate, pin}) things.push_back({id, *m.evaluation.part(id)->mesh});
    auto edit = arrange_beds(*m.project, things);
    ASSERT_TRUE(edit) << edit.error().text();
    EXPECT_EQ(edit->beds, 1u);
    EXPECT_EQ(edit->stands[plate].size(), 3u);
    EXPECT_EQ(edit->stands[plate][0], (BedStand{{0, {110, 110}, 30}, true}));
    m.project = edited(m.project, *edit);
    m.evaluation.project = m.project;
    EXPECT_TRUE(bed_troubles(*m.project, things).empty());
    EXPECT_TRUE(told(m, FindingKind::InAnother).empty() && told(m, FindingKind::PastBorder).empty());
    // The file has them where the plan has them.
    test::Folder folder;
    auto back = export_project(m.evaluation, {folder.path, {"3mf"}, 0.01});
    ASSERT_TRUE(back) << back.error().text();
    ASSERT_EQ(back->size(), 5u);
    auto file = read_file(back->front().file);
    auto read = read_objects("kit.3mf", *file);
    ASSERT_TRUE(read);
    const BedPlan plan = plan_of(m, *m.project);
    for (const BedItem& item : plan.items) {
        const std::string name = m.project->part(item.part)->name + " " + std::to_string(item.copy + 1);
        auto object = std::find_if(read->objects.begin(), read->objects.end(),
                                   [&](const FileObject& o) { return o.name == name; });
        ASSERT_NE(object, read->objects.end()) << name;
        EXPECT_LT((bounding_box(object->triangles()).center().head<2>() - item.spot.at).norm(), 0.01) << name;
    }
    // Colours apart, and all together when that is not wanted.
    m.project = edited(m.project, SetColour{pin, "#335577"});
    EXPECT_EQ(arrange_beds(*m.project, things)->beds, 1u);
    m.project = edited(m.project, SetBeds{{3, true}});
    edit = arrange_beds(*m.project, things);
    ASSERT_TRUE(edit);
    EXPECT_EQ(edit->beds, 2u);
}

TEST(BedPlan, WhatCannotStayIsTold) {
    Made m = kit();
    const PartId plate = m.project->parts[0]->id, pin = m.project->parts[1]->id;
    SetStands put;
    put.stands[plate] = {
        {0, {{0, {60, 60}, 0}, false}}, {1, {{0, {200, 100}, 0}, false}}, {2, {{1, {60, 60}, 0}, false}}};
    put.stands[pin] = {{0, {{0, {80, 60}, 0}, false}}, {1, {{0, {150, 150}, 0}, false}}};
    m.project = edited(m.project, put);
    m.evaluation.project = m.project;
    auto past = told(m, FindingKind::PastBorder), within = told(m, FindingKind::InAnother);
    ASSERT_EQ(past.size(), 1u);
    EXPECT_EQ(past[0].ref.part, plate);
    EXPECT_EQ(past[0].finding.says, "Copy 2 reaches past the border on bed 1.");
    ASSERT_EQ(within.size(), 2u) << "the plate and the pin in it; not the plate on the next bed";
    EXPECT_EQ(within[0].finding.says, "Copy 1 stands in another thing on bed 1.");
    EXPECT_EQ(within[1].ref.part, pin);
    // Side by side without a gap is no trouble.
    put.stands[plate][1] = {{0, {120, 60}, 0}, false};
    put.stands[pin][0] = {{0, {60, 90}, 0}, false};
    m.project = edited(m.project, put);
    m.evaluation.project = m.project;
    EXPECT_TRUE(told(m, FindingKind::InAnother).empty() && told(m, FindingKind::PastBorder).empty());
}

TEST(BedPlan, OneAtATimeKeepsTheHeadClear) {
    Made m = kit(); // plates 5 high, pins 30 high; the head reaches 35 and passes over 25
    const PartId plate = m.project->parts[0]->id, pin = m.project->parts[1]->id;
    BedSettings one;
    one.one_at_a_time = true;
    m.project = edited(m.project, SetBeds{one});
    m.evaluation.project = m.project;
    // In rows they stand apart, but two pins on one bed are one too many.
    const auto in_rows = told(m, FindingKind::UnderHead);
    ASSERT_EQ(in_rows.size(), 1u);
    EXPECT_EQ(in_rows[0].ref.part, pin);
    EXPECT_NE(in_rows[0].finding.says.find("would be met by the head"), std::string::npos) << in_rows[0].finding.says;
    std::vector<BedThing> things;
    for (PartId id : {plate, pin}) things.push_back({id, *m.evaluation.part(id)->mesh});
    auto edit = arrange_beds(*m.project, things);
    ASSERT_TRUE(edit) << edit.error().text();
    EXPECT_EQ(edit->beds, 2u) << "a pin each";
    EXPECT_NE(edit->stands[pin][0].spot.bed, edit->stands[pin][1].spot.bed);
    m.project = edited(m.project, *edit);
    m.evaluation.project = m.project;
    EXPECT_TRUE(told(m, FindingKind::UnderHead).empty());
    // Box by box: what shares a bed is 35 apart at least (of discs and plates their boxes are no nearer than they).
    const BedPlan plan = plan_of(m, *m.project);
    for (const BedItem& a : plan.items)
        for (const BedItem& b : plan.items) {
            if (&a >= &b || a.spot.bed != b.spot.bed || a.part != plate || b.part != plate) continue;
            const Box3 one_box = bounding_box(transformed(*m.evaluation.part(a.part)->mesh, a.stand)),
                       other = bounding_box(transformed(*m.evaluation.part(b.part)->mesh, b.stand));
            EXPECT_GE(one_box.exteriorDistance(other), 35 - 1e-6);
        }
    // Pushed nearer it is told; printed together it is not.
    SetStands put;
    put.stands[plate] = {
        {0, {{0, {40, 40}, 0}, false}}, {1, {{0, {120, 40}, 0}, false}}, {2, {{1, {60, 60}, 0}, false}}};
    m.project = edited(m.project, put);
    m.evaluation.project = m.project;
    ASSERT_FALSE(told(m, FindingKind::UnderHead).empty()) << "20 apart";
    m.project = edited(m.project, SetBeds{{}});
    m.evaluation.project = m.project;
    EXPECT_TRUE(told(m, FindingKind::UnderHead).empty());
    // The file has the lowest first.
    m.project = edited(edited(m.project, *edit), SetBeds{one});
    m.evaluation.project = m.project;
    test::Folder folder;
    auto back = export_project(m.evaluation, {folder.path, {"3mf"}, 0.01});
    ASSERT_TRUE(back) << back.error().text();
    auto file = read_file(back->front().file);
    auto read = read_objects("kit.3mf", *file);
    ASSERT_TRUE(read && read->objects.size() >= 2u);
    for (size_t i = 1; i < read->objects.size(); ++i)
        EXPECT_LE(height_of(read->objects[i - 1].triangles()), height_of(read->objects[i].triangles()) + 1e-6);
    // It is kept in the file.
    auto again = project_from_text(project_to_json(*m.project).dump());
    ASSERT_TRUE(again);
    EXPECT_TRUE(again->beds.one_at_a_time);
}

TEST(BedPlan, HostileStandsAreRefusedAndALargePartIsNamed) {
    const Made m = kit();
    auto text = project_to_json(*m.project);
    for (const char* stand :
         {R"({"bed":-1})", R"({"bed":4000})", R"({"at":[1]})", R"({"at":[1e300,0]})", R"({"at":"x"})", R"({"copy":-3})",
          R"({"copy":100000})", R"({"turn_deg":"x"})", R"([])", R"(7)"}) {
        auto wrong = text;
        wrong["parts"][0]["stands"] = nlohmann::json::array({nlohmann::json::parse(stand)});
        EXPECT_FALSE(project_from_text(wrong.dump())) << stand;
    }
    auto wrong = text;
    wrong["beds"] = {{"spacing_mm", -3}};
    EXPECT_FALSE(project_from_text(wrong.dump()));
    EXPECT_FALSE(apply_edit(*m.project, SetBeds{{500, true}}));
    SetStands far;
    far.stands[m.project->parts[0]->id][0] = {{0, {1e9, 0}, 0}, false};
    EXPECT_FALSE(apply_edit(*m.project, far));
    TriMesh beam = box_mesh({0, 0, 0}, {400, 10, 10});
    auto edit = arrange_beds(*m.project, {{m.project->parts[0]->id, beam}});
    ASSERT_FALSE(edit);
    EXPECT_NE(edit.error().text().find("\"Plate\""), std::string::npos);
    EXPECT_FALSE(arrange_beds(*m.project, {}));
}
