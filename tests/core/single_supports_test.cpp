// Supports put in, left out and moved one by one, and copied to parts of the same shape.
#include "bed/support_figures.h"
#include "bed/supports.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/marked_faces.h"
#include "project/support_edits.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

/// A top of 60 x 40 x 4 on a leg of 10 x 10 x 24, its foot on the bed.
TriMesh table_mesh() {
    TriMesh mesh = box_mesh({25, 15, 0}, {35, 25, 24});
    append(mesh, box_mesh({0, 0, 24}, {60, 40, 28}));
    return mesh;
}
json table_steps() {
    return {block(10, 10, 24, "leg"),
            step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 4}, {"at_z", 24}}, "top")};
}

SupportOptions of_kind(SupportKind kind) {
    SupportOptions options;
    options.kind = kind;
    return options;
}
constexpr SupportKind both[] = {SupportKind::Posts, SupportKind::Trees};

double nearest_to(const std::vector<Vec3>& places, const Vec3& at) {
    double best = 1e9;
    for (const Vec3& p : places) best = std::min(best, (p - at).norm());
    return best;
}

void expect_all_touch(const TriMesh& mesh, const Supports& supports, const SupportOptions& options) {
    const SupportFigures figures = support_figures(mesh, supports, options);
    EXPECT_EQ(figures.touching, figures.supports);
}

} // namespace

TEST(SingleSupports, WhatIsLeftOutCarriesNothingThere) {
    const TriMesh mesh = table_mesh();
    for (SupportKind kind : both) {
        const Supports all = make_supports(mesh, of_kind(kind));
        ASSERT_GT(all.carried.size(), 10u);
        const Vec3 gone = all.carried[all.carried.size() / 2];
        const Supports less = make_supports(mesh, of_kind(kind), {}, {{}, {{gone, false}}});
        EXPECT_GT(nearest_to(less.carried, gone), 1.5) << word_of(kind);
        EXPECT_LT(less.carried.size(), all.carried.size());
        EXPECT_GT(less.carried.size() + 8, all.carried.size()) << "the others stay";
        expect_all_touch(mesh, less, of_kind(kind));
        EXPECT_GE(support_figures(mesh, less, of_kind(kind)).unsupported_area_mm2,
                  support_figures(mesh, all, of_kind(kind)).unsupported_area_mm2);
    }
}

TEST(SingleSupports, AllLeftOutTellsThatEverythingHangs) {
    const TriMesh mesh = table_mesh();
    SupportWishes wishes;
    for (double x = 0; x <= 60; x += 2)
        for (double y = 0; y <= 40; y += 2) wishes.changes.push_back({Vec3(x, y, 24), false});
    for (SupportKind kind : both) {
        const Supports none = make_supports(mesh, of_kind(kind), {}, wishes);
        EXPECT_TRUE(none.carried.empty());
        EXPECT_EQ(none.count(), 0u);
        const double hangs = support_figures(mesh, none, of_kind(kind)).unsupported_area_mm2;
        EXPECT_GT(hangs, 2000) << word_of(kind); // 60 x 40, the leg's top within it, less what its sides carry
        EXPECT_LE(hangs, 2400 + 1);
    }
}

TEST(SingleSupports, OneIsPutInWhereNoneWasWanted) {
    const TriMesh mesh = box_mesh({0, 0, 10}, {30, 30, 14}); // lifted: its underside is level
    SupportOptions steep = of_kind(SupportKind::Posts);
    for (SupportKind kind : both) {
        steep.kind = kind;
        steep.overhang_limit_deg = 90; // nothing hangs beyond it
        TriMesh standing = box_mesh({-40, 0, 0}, {-20, 30, 5});
        append(standing, mesh);
        EXPECT_EQ(make_supports(standing, steep).count(), 0u);
        const Vec3 at(12, 17, 10);
        const Supports one = make_supports(standing, steep, {}, {{}, {{at, true}}});
        ASSERT_EQ(one.carried.size(), 1u) << word_of(kind);
        EXPECT_LT((one.carried[0] - at).norm(), 1e-6);
        EXPECT_EQ(one.not_put, 0u);
        expect_all_touch(standing, one, steep);
        EXPECT_NEAR(bounding_box(one.mesh).max().z(), 10 - steep.contact_gap_mm, 0.05);
    }
}

TEST(SingleSupports, WhatCannotBePutInIsCounted) {
    const TriMesh mesh = table_mesh();
    for (SupportKind kind : both) {
        const size_t usual = make_supports(mesh, of_kind(kind)).carried.size();
        // In the air beside it; a hair beside the underside it is taken to it.
        const Supports beside = make_supports(mesh, of_kind(kind), {}, {{}, {{Vec3(90, 0, 20), true}}});
        EXPECT_EQ(beside.not_put, 1u) << word_of(kind);
        EXPECT_EQ(beside.carried.size(), usual);
    }
    const Supports above = make_supports(mesh, of_kind(SupportKind::Trees), {}, {{}, {{Vec3(5, 5, 28), true}}});
    EXPECT_EQ(above.not_put, 1u) << "a place that looks up";
}

TEST(SingleSupports, EditsAreExact) {
    SupportSettings settings;
    const Vec3 a(1, 2, 3), b(9, 2, 3);
    settings = with_support(settings, a);
    EXPECT_TRUE(settings.on);
    ASSERT_EQ(settings.changes.size(), 1u);
    EXPECT_TRUE(settings.changes[0].added);
    EXPECT_TRUE(without_support(settings, a).changes.empty()) << "what was put in by hand is just gone";
    const SupportSettings left_out = without_support(settings, b);
    ASSERT_EQ(left_out.changes.size(), 2u);
    EXPECT_FALSE(left_out.changes[1].added);
    EXPECT_EQ(with_support(left_out, b).changes.size(), 2u) << "no longer left out, but put in";
    const SupportSettings moved = with_moved_support(settings, a, b);
    ASSERT_EQ(moved.changes.size(), 1u);
    EXPECT_EQ(moved.changes[0].at, b);
}

TEST(SingleSupports, FollowTheirPartIntoItsPoseAndTheFile) {
    Made m = make(table_steps());
    ASSERT_EQ(m.says(), "");
    const PartId id = m.project->parts[0]->id;
    SupportSettings settings;
    settings.on = true;
    const Vec3 at(12, 9, 24); // on the underside, in the design
    settings.changes = {{at, false}};
    auto edited = apply_edit(*m.project, SetSupports{id, settings});
    ASSERT_TRUE(edited);
    auto read = project_from_json(project_to_json(*edited->project));
    ASSERT_TRUE(read) << read.error().text();
    EXPECT_EQ(read->parts[0]->supports, settings);
    auto evaluation = Evaluator().evaluate(edited->project);
    ASSERT_TRUE(evaluation);
    Analyser analyser;
    auto analysis = analyser.analyse(*evaluation);
    ASSERT_TRUE(analysis);
    const PartAnalysis* known = analysis->part(id);
    ASSERT_TRUE(known);
    ASSERT_GT(known->supports.carried.size(), 10u);
    EXPECT_GT(nearest_to(known->supports.carried, known->pose * at), 1.9);
    // Put in there instead: it stands exactly under it.
    settings.changes = {{at, true}};
    edited = apply_edit(*edited->project, SetSupports{id, settings});
    evaluation = Evaluator().evaluate(edited->project);
    analysis = analyser.analyse(*evaluation);
    EXPECT_LT(nearest_to(analysis->part(id)->supports.carried, analysis->part(id)->pose * at), 2.5);
}

TEST(SingleSupports, DamagedOnesInAFileAreRefused) {
    Made m = make(table_steps());
    json whole = project_to_json(*m.project);
    for (const json& changes :
         {json("all"), json::array({1}), json::array({{{"does", "add"}}}), json::array({{{"at", {1, 2, 3}}}}),
          json::array({{{"at", {1, 2}}, {"does", "add"}}}), json::array({{{"at", {1, 2, 3}}, {"does", "fly"}}})}) {
        whole["parts"][0]["supports"]["changes"] = changes;
        EXPECT_FALSE(project_from_json(whole)) << changes.dump();
    }
}

TEST(Siblings, OfTheSameShapeAreLaidAlike) {
    const json steps = table_steps();
    const json other{block(10, 10, 24, "leg"),
                     step("block", {{"size_x", 50}, {"size_y", 40}, {"size_z", 4}, {"at_z", 24}}, "top")};
    Made m = make_parts({{"a", steps}, {"b", steps}, {"c", steps}, {"d", other}});
    ASSERT_EQ(m.says(), "");
    const PartId a = m.project->parts[0]->id, b = m.project->parts[1]->id, c = m.project->parts[2]->id,
                 d = m.project->parts[3]->id;
    EXPECT_EQ(siblings_of(m.evaluation, a), (std::vector{b, c}));
    EXPECT_TRUE(siblings_of(m.evaluation, d).empty());
    auto none = laid_alike(m.evaluation, d, {});
    EXPECT_FALSE(none);
    // Supports, a mark and a pose on the first.
    SupportSettings settings;
    settings.on = true;
    settings.options.kind = SupportKind::Trees;
    settings.changes = {{Vec3(20, 12, 24), true}};
    const Tessellation& shape = m.part(0).bodies[0].body.tessellation();
    size_t top = 0;
    for (size_t i = 0; i < shape.faces.size(); ++i)
        if (shape.faces[i].direction.z() > 0.99 && shape.faces[i].area_mm2 > shape.faces[top].area_mm2) top = i;
    auto edited = apply_edit(*m.project, SetSupports{a, settings});
    edited =
        apply_edit(*edited->project, SetFaceMarks{a, with_mark(*m.project->parts[0], m.part(0),
                                                               {{0, top, shape.faces[top].centre}}, FaceMark::Seen)});
    PrintPose leaning;
    leaning.turn = {"20 deg", "0 deg", "0 deg"};
    edited = apply_edit(*edited->project, SetPose{a, leaning});
    auto evaluation = Evaluator().evaluate(edited->project);
    auto edit = laid_alike(*evaluation, a, siblings_of(*evaluation, a));
    ASSERT_TRUE(edit) << edit.error().text();
    edited = apply_edit(*edited->project, *edit);
    ASSERT_TRUE(edited);
    EXPECT_EQ(edited->sentence, "Laid 2 parts like a");
    evaluation = Evaluator().evaluate(edited->project);
    Analyser analyser;
    auto analysis = analyser.analyse(*evaluation);
    ASSERT_TRUE(analysis);
    for (PartId id : {b, c}) {
        const PartPtr part = edited->project->part(id);
        EXPECT_EQ(part->supports, settings);
        EXPECT_EQ(find_marks(*part, *evaluation->part(id)).faces.size(), 1u);
        EXPECT_EQ(analysis->part(id)->supports.count(), analysis->part(a)->supports.count());
        EXPECT_TRUE(analysis->part(id)->pose.isApprox(analysis->part(a)->pose, 1e-9));
    }
    EXPECT_FALSE(edited->project->part(d)->supports.on);
}
