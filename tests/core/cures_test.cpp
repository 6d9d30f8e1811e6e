// Cures of findings: each is done and looked at again; what hangs and what is thin by areas that are known.
#include "formats/stl.h"
#include "made_project.h"
#include "mesh/combine.h"
#include "mesh/soundness.h"
#include "project/cures.h"
#include "test_meshes.h"

using namespace lp;
using namespace lp::test;

namespace {

struct Tried {
    Made made;
    std::vector<TriedCure> cures;
    std::vector<std::string> words() const {
        std::vector<std::string> all;
        for (const TriedCure& c : cures) all.push_back(c.cure.words);
        return all;
    }
    const TriedCure* called(const std::string& words) const {
        for (const TriedCure& c : cures)
            if (c.cure.words == words) return &c;
        return nullptr;
    }
    /// The part after a cure.
    Made after(const TriedCure& cure) const {
        Made next;
        auto edited = apply_edit(*made.project, cure.cure.edit);
        EXPECT_TRUE(edited) << (edited ? "" : edited.error().text());
        next.project = edited->project;
        next.evaluation = *Evaluator().evaluate(next.project);
        return next;
    }
};

std::optional<PartFinding> finding_of(const Made& made, FindingKind kind) {
    auto analysis = Analyser().analyse(made.evaluation);
    EXPECT_TRUE(analysis);
    for (const PartFinding& f : findings_of_part(made.evaluation, &*analysis, made.part().part))
        if (f.ref.kind == kind) return f;
    return std::nullopt;
}

Tried tried(const json& steps, FindingKind kind) {
    Tried result{make(steps), {}};
    EXPECT_EQ(result.made.says(), "");
    const auto finding = finding_of(result.made, kind);
    EXPECT_TRUE(finding) << row_of(kind).title;
    if (!finding) return result;
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, result.made.evaluation, *finding);
    EXPECT_TRUE(cures) << (cures ? "" : cures.error().text());
    if (cures) result.cures = *cures;
    return result;
}

} // namespace

TEST(Cures, AWideBridgeGetsAPointedRoof) {
    const Tried t = tried(
        {block(60, 40, 40), step("block", {{"size_x", 16}, {"size_y", 40}, {"size_z", 15}, {"does", "cut"}}, "slot")},
        FindingKind::Bridge);
    const TriedCure* roof = t.called("Pointed roof");
    ASSERT_TRUE(roof) << ::testing::PrintToString(t.words());
    EXPECT_EQ(t.cures.front().cure.words, "Pointed roof") << "the best first";
    EXPECT_EQ(roof->cure.place, "top of slot");
    EXPECT_EQ(roof->says, "What hangs falls from 640 to 0 mm².") << "16 x 40";
    const Made after = t.after(*roof);
    EXPECT_EQ(after.says(), "");
    EXPECT_FALSE(finding_of(after, FindingKind::Bridge));
    EXPECT_FALSE(finding_of(after, FindingKind::Hanging));
}

TEST(Cures, ALyingHoleGetsADropUpAsItIsPrinted) {
    json steps{
        block(40, 40, 40),
        step("cylinder",
             {{"diameter", 14}, {"height", 40}, {"from", "centre"}, {"at_z", 20}, {"along", "y"}, {"does", "cut"}},
             "bore")};
    const Tried t = tried(steps, FindingKind::Hanging);
    const TriedCure* roof = t.called("Pointed roof");
    ASSERT_TRUE(roof) << ::testing::PrintToString(t.words());
    EXPECT_FALSE(finding_of(t.after(*roof), FindingKind::Hanging));
    // Laid on its side the drop points to where up is then.
    Made side = make(steps);
    PrintPose pose;
    pose.down = Vec3(-1, 0, 0);
    side.project = apply_edit(*side.project, SetPose{side.part().part, pose})->project;
    side.evaluation = *Evaluator().evaluate(side.project);
    const auto finding = finding_of(side, FindingKind::Hanging);
    ASSERT_TRUE(finding);
    bool found = false;
    for (const FindingCure& cure : cures_of(side.evaluation, *finding))
        if (cure.words == "Pointed roof") {
            const Step& made = cure.edit.parts.front().get_if<AddStep>()->step;
            EXPECT_EQ(made.fields.at("up").text(), "x");
            found = true;
        }
    EXPECT_TRUE(found);
}

TEST(Cures, ARoundAtTheFootBecomesAChamfer) {
    const Tried t = tried({block(40, 30, 20), step("fillet", {{"edges", "of bottom of b"}, {"radius", 4}}, "foot")},
                          FindingKind::Hanging);
    const TriedCure* chamfer = t.called("Chamfer instead");
    ASSERT_TRUE(chamfer) << ::testing::PrintToString(t.words());
    const Made after = t.after(*chamfer);
    EXPECT_EQ(after.says(), "");
    ASSERT_EQ(after.project->parts[0]->steps.size(), 2u) << "in its place";
    EXPECT_EQ(after.project->parts[0]->steps[1].kind, "chamfer");
    EXPECT_EQ(after.project->parts[0]->steps[1].name, "foot");
    EXPECT_FALSE(finding_of(after, FindingKind::Hanging));
}

TEST(Cures, ASteepThreadGetsTheRoundProfile) {
    // A rod of 24 x 3 with sharp flanks, 60 degrees from upright as it stands.
    const Tried t =
        tried(json::array({step("thread", {{"size", "24x3"}, {"length", 30}}, "rod")}), FindingKind::Hanging);
    const TriedCure* round = t.called("Round profile");
    ASSERT_TRUE(round) << ::testing::PrintToString(t.words());
    EXPECT_EQ(round->cure.place, "rod");
    const Made after = t.after(*round);
    EXPECT_EQ(after.says(), "");
    EXPECT_FALSE(finding_of(after, FindingKind::Hanging)) << "45 degrees print";
}

TEST(Cures, ALedgeIsFilledBelow) {
    // A head of 20 on a shaft of 10: a ring 5 wide hangs. Filled at 45 degrees a cone carries it.
    const Tried t = tried({step("cylinder", {{"diameter", 10}, {"height", 20}}, "shaft"),
                           step("cylinder", {{"diameter", 20}, {"height", 5}, {"at_z", 20}}, "head")},
                          FindingKind::Hanging);
    const TriedCure* fill = t.called("Chamfer under it");
    ASSERT_TRUE(fill) << ::testing::PrintToString(t.words());
    const Made after = t.after(*fill);
    EXPECT_EQ(after.says(), "");
    // The frustum round the shaft: pi h / 3 (R^2 + R r + r^2) - pi r^2 h with h = R - r = 4.95.
    const double h = 4.95, big = 9.95, small = 5;
    EXPECT_NEAR(after.volume() - t.made.volume(),
                std::numbers::pi * h * ((big * big + big * small + small * small) / 3 - small * small), 0.01);
}

TEST(Cures, AThinWallIsPushedThick) {
    const Tried t =
        tried({block(40, 30, 20), step("block", {{"size_x", 40}, {"size_y", 0.5}, {"size_z", 30}, {"at_y", 5}}, "fin")},
              FindingKind::Thin);
    const TriedCure* thick = t.called("Thicken this wall");
    ASSERT_TRUE(thick) << ::testing::PrintToString(t.words());
    EXPECT_FALSE(finding_of(t.after(*thick), FindingKind::Thin));
}

TEST(Cures, NothingIsToldThatDoesNotHelp) {
    // The underside of a ball: no step here cures it.
    const Tried ball = tried(json::array({step("sphere", {{"diameter", 30}}, "ball")}), FindingKind::Hanging);
    for (const TriedCure& c : ball.cures) EXPECT_TRUE(c.cure.aside) << c.cure.words;
    // Stopped it says so.
    Task task;
    task.cancel.cancel();
    Made m = make(
        {block(60, 40, 40), step("block", {{"size_x", 16}, {"size_y", 40}, {"size_z", 15}, {"does", "cut"}}, "slot")});
    const auto finding = finding_of(m, FindingKind::Bridge);
    ASSERT_TRUE(finding);
    Evaluator evaluator;
    auto stopped = tried_cures(evaluator, m.evaluation, *finding, task);
    ASSERT_FALSE(stopped);
    EXPECT_EQ(stopped.error().code, ProblemCode::Cancelled);
}

/// A wall of 10 x 60, 40 high, and a shelf 12 deep and 4 thick on it, 60 long, from z 20.
static json wall_and_shelf() {
    return {block(10, 60, 40),
            step("block", {{"size_x", 12}, {"size_y", 60}, {"size_z", 4}, {"at_x", 11}, {"at_z", 20}}, "shelf")};
}

TEST(Cures, GussetsMakeBridgesOfALedge) {
    const Tried t = tried(wall_and_shelf(), FindingKind::Hanging);
    // From rim to rim 60 by webs 2 thick with 10 between at most: 6 webs, 9.6 between.
    const TriedCure* webs = t.called("6 gussets");
    ASSERT_TRUE(webs) << ::testing::PrintToString(t.words());
    const Made after = t.after(*webs);
    EXPECT_EQ(after.says(), "");
    // Right-angled webs of 11.99 by 11.99, 2 thick.
    EXPECT_NEAR(after.volume() - t.made.volume(), 6 * 2 * 11.99 * 11.99 / 2, 0.01);
    auto analysis = Analyser().analyse(after.evaluation);
    ASSERT_TRUE(analysis);
    EXPECT_NEAR(*analysis->parts[0]->inspection.widest_bridge_mm, 9.6, 0.02);
    EXPECT_FALSE(finding_of(after, FindingKind::Bridge));
    EXPECT_NE(webs->says.find("What hangs falls from 720 to "), std::string::npos) << webs->says;
}

TEST(Cures, OfTrianglesALedgeGetsAWeb) {
    const Made exact = make(wall_and_shelf());
    const Made m = make(json::array({step("bring_in", {{"file", "shelf.stl"}})}), json::object(),
                        {{"shelf.stl", write_stl_binary(*exact.part().mesh)}});
    ASSERT_EQ(m.says(), "");
    const auto finding = finding_of(m, FindingKind::Hanging);
    ASSERT_TRUE(finding);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, m.evaluation, *finding);
    ASSERT_TRUE(cures);
    std::vector<std::string> words;
    for (const TriedCure& c : *cures) words.push_back(c.cure.words);
    const auto web = std::find(words.begin(), words.end(), "Web under it");
    ASSERT_NE(web, words.end()) << ::testing::PrintToString(words);
    auto edited = apply_edit(*m.project, (*cures)[size_t(web - words.begin())].cure.edit);
    ASSERT_TRUE(edited);
    auto made = Evaluator().evaluate(edited->project);
    ASSERT_TRUE(made);
    EXPECT_NEAR(made->parts[0].mass.volume_mm3 - m.volume(), 59.99 * 11.99 * 11.99 / 2, 1);
}

TEST(Cures, ACounterboreUpsideDownGetsALayerToDrillThrough) {
    const Tried t =
        tried({block(30, 30, 12), step("cylinder", {{"diameter", 5}, {"height", 12}, {"does", "cut"}}, "hole"),
               step("cylinder", {{"diameter", 9}, {"height", 5}, {"does", "cut"}}, "counterbore")},
              FindingKind::Hanging);
    const TriedCure* layer = t.called("Layer to drill through");
    ASSERT_TRUE(layer) << ::testing::PrintToString(t.words());
    const Made after = t.after(*layer);
    EXPECT_EQ(after.says(), "");
    EXPECT_NEAR(after.volume() - t.made.volume(), std::numbers::pi * 2.5 * 2.5 * 0.2, 0.01);
    EXPECT_FALSE(finding_of(after, FindingKind::Hanging)) << "nine millimetres are bridged";
    EXPECT_FALSE(finding_of(after, FindingKind::Bridge));
    // Of a face without a hole nothing is closed.
    const Made wrong = make({block(30, 30, 12), step("closing_layer", {{"face", "top of b"}})});
    EXPECT_NE(wrong.says().find("No round hole opens into that face"), std::string::npos) << wrong.says();
}

TEST(Cures, SupportsAndASplitAreOfferedBehindTheRest) {
    // A mushroom: split at the cap's underside both pieces lie flat.
    const Tried t = tried({step("cylinder", {{"diameter", 12}, {"height", 30}}, "stem"),
                           step("cylinder", {{"diameter", 50}, {"height", 8}, {"at_z", 30}}, "cap"),
                           step("cylinder", {{"diameter", 20}, {"height", 6}, {"at_z", 38}}, "knob")},
                          FindingKind::Hanging);
    const TriedCure* posts = t.called("Posts under it");
    ASSERT_TRUE(posts) << ::testing::PrintToString(t.words());
    EXPECT_NE(posts->says.find(" posts, "), std::string::npos) << posts->says;
    EXPECT_TRUE(t.after(*posts).project->parts[0]->supports.on);
    const TriedCure* split = t.called("Split here");
    ASSERT_TRUE(split) << ::testing::PrintToString(t.words());
    EXPECT_NE(split->says.find("two pieces without supports"), std::string::npos) << split->says;
    const Made after = t.after(*split);
    EXPECT_EQ(after.says(), "");
    ASSERT_EQ(after.project->parts.size(), 2u) << "each piece a part, printed for itself";
    EXPECT_EQ(after.part(0).bodies.size(), 1u);
    EXPECT_EQ(after.part(1).bodies.size(), 1u);
    EXPECT_NEAR(after.volume(0) + after.volume(1), t.made.volume(), 1e-3);
    EXPECT_FALSE(finding_of(after, FindingKind::Hanging)) << "both lie flat";
    EXPECT_TRUE(split->cure.aside && posts->cure.aside);
    bool behind = false;
    for (const TriedCure& c : t.cures) {
        if (c.cure.aside) behind = true;
        EXPECT_EQ(c.cure.aside, behind) << c.cure.words;
    }
}

TEST(Cures, EachCureOfADamagedMeshAlone) {
    // A ball with three facets missing and forty turned over, and a box that stands in its side: what each cure is for
    // goes, what the others are for stays.
    TriMesh ball = sphere(20, 24);
    for (size_t i : {900, 500, 100}) ball.triangles.erase(ball.triangles.begin() + std::ptrdiff_t(i));
    for (size_t i = 200; i < 240; ++i) std::swap(ball.triangles[i][1], ball.triangles[i][2]);
    append(ball, box_mesh({15, -5, -5}, {30, 5, 5}));
    const Made made = make(json::array({step("bring_in", {{"file", "ball.stl"}})}), json::object(),
                           {{"ball.stl", write_stl_binary(ball)}});
    ASSERT_EQ(made.says(), "");
    struct Wanted {
        FindingKind kind;
        const char *words, *says;
    };
    const auto faults = [](const Made& m) { return check_soundness(*m.part().mesh); };
    const Soundness before = faults(made);
    ASSERT_EQ(before.open_edges.count, 9u);
    ASSERT_EQ(before.flipped.count, 40u);
    const size_t overlapping = before.overlapping_shells->count;
    ASSERT_EQ(overlapping, 2u);
    for (const Wanted& wanted : {Wanted{FindingKind::Open, "Fill the holes", "Open edges fall from 9 to 0."},
                                 Wanted{FindingKind::Flipped, "Turn them over", "Flipped fall from 40 to 0."}}) {
        const auto finding = finding_of(made, wanted.kind);
        ASSERT_TRUE(finding) << wanted.words;
        Evaluator evaluator;
        auto tried = tried_cures(evaluator, made.evaluation, *finding);
        ASSERT_TRUE(tried);
        const Tried all{made, *tried};
        const TriedCure* cure = all.called(wanted.words);
        ASSERT_NE(cure, nullptr) << wanted.words;
        EXPECT_EQ(cure->says, wanted.says);
        const Soundness after = faults(all.after(*cure));
        const bool filled = wanted.kind == FindingKind::Open;
        EXPECT_EQ(after.open_edges.count, filled ? 0u : 9u);
        EXPECT_EQ(after.overlapping_shells->count, overlapping) << "nothing else is done";
        if (!filled) {
            EXPECT_EQ(after.flipped.count, 0u);
        }
    }
    // Uniting needs a closed surface: it is offered where that is so.
    TriMesh two = sphere(20, 24);
    append(two, box_mesh({15, -5, -5}, {30, 5, 5}));
    const Made closed = make(json::array({step("bring_in", {{"file", "two.stl"}})}), json::object(),
                             {{"two.stl", write_stl_binary(two)}});
    const auto overlap = finding_of(closed, FindingKind::Overlap);
    ASSERT_TRUE(overlap);
    Evaluator evaluator;
    auto tried = tried_cures(evaluator, closed.evaluation, *overlap);
    ASSERT_TRUE(tried);
    const Tried all{closed, *tried};
    const TriedCure* unite = all.called("Unite them");
    ASSERT_NE(unite, nullptr);
    const Made one = all.after(*unite);
    EXPECT_TRUE(faults(one).sound());
    // Inclusion and exclusion: both less what they share, by the general library's own common part.
    auto shared = combine_meshes(Operation::Common, {sphere(20, 24), box_mesh({15, -5, -5}, {30, 5, 5})});
    ASSERT_TRUE(shared);
    EXPECT_NEAR(one.volume(),
                mass_properties(sphere(20, 24)).volume_mm3 + 15 * 100 - mass_properties(*shared).volume_mm3, 1e-2);
}
