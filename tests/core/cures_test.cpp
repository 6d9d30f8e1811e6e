// Cures of findings: each is done and looked at again; what hangs and what is thin by areas that are known.
#include "made_project.h"
#include "project/cures.h"

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
    EXPECT_TRUE(ball.cures.empty()) << ::testing::PrintToString(ball.words());
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
