// Parts made side by side, results that are seen before they are proved, and what happens when a proof fails.
#include "made_project.h"
#include "project/step_store.h"
#include "shape/exact_solids.h"
#include "shape/held_checks.h"
#include "shape/kernel_guard.h"
#include "test_meshes.h"
#include <numbers>
#include <random>
#include <thread>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

std::optional<Problem> wrong(const char* why) {
    return Problem{ProblemCode::Geometry, why, ""};
}

StepResult a_result(double size) {
    StepResult result;
    StepBody body;
    body.body = make_block(Vec3::Constant(size), Transform::Identity(), {1, 0}).value();
    result.bodies.push_back(body);
    return result;
}

ProjectPtr project_of(const std::vector<json>& parts) {
    json whole{{"format", "loose-peg"}, {"version", 1}, {"parameters", json::object()}, {"parts", parts}};
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    return std::make_shared<const Project>(project.value_or(Project{}));
}

json part(const std::string& name, const std::vector<json>& steps) {
    return {{"name", name}, {"steps", steps}};
}

json cut_with(const std::string& tool, const std::string& fit = "slide") {
    return step("cut_with", {{"tool", tool}, {"fit", fit}});
}

} // namespace

TEST(HeldChecks, AreMadeAtOnceWhereNobodyHoldsThemBack) {
    std::atomic<int> made{0};
    auto good = [&]() -> std::optional<Problem> {
        ++made;
        return std::nullopt;
    };
    EXPECT_FALSE(check_or_hold({}));
    EXPECT_FALSE(check_or_hold({good, good, good}));
    EXPECT_EQ(made, 3);
    auto first = check_or_hold({[] { return wrong("one"); }, good, [] { return wrong("two"); }});
    ASSERT_TRUE(first);
    EXPECT_EQ(first->sentence, "one") << "in their order, whoever is ready first";
    EXPECT_EQ(made, 4) << "the others are made all the same";
}

TEST(HeldChecks, AreCollectedByTheInnermostOnThisThreadOnly) {
    int made = 0;
    auto check = [&]() -> std::optional<Problem> {
        ++made;
        return wrong("no");
    };
    HeldChecks outer;
    EXPECT_FALSE(check_or_hold({check}));
    {
        HeldChecks inner;
        EXPECT_FALSE(check_or_hold({check, check}));
        EXPECT_EQ(inner.checks.size(), 2u);
        ChecksAtOnce now;
        EXPECT_TRUE(check_or_hold({check})) << "at once within";
    }
    EXPECT_FALSE(check_or_hold({check})) << "as before";
    EXPECT_EQ(outer.checks.size(), 2u);
    EXPECT_EQ(made, 1);
    bool found = false;
    std::thread([&] { found = check_or_hold({check}).has_value(); }).join();
    EXPECT_TRUE(found) << "another thread does not wait";
    EXPECT_EQ(made, 2);
}

TEST(Proof, IsMadeOnceHoweverManyAsk) {
    std::atomic<int> made{0};
    Proof proof(StepId(7), {[&]() -> std::optional<Problem> {
                    ++made;
                    return std::nullopt;
                }});
    EXPECT_TRUE(proof.open());
    std::vector<std::thread> threads;
    std::atomic<int> held{0};
    for (int i = 0; i < 8; ++i) threads.emplace_back([&] { held += proof.holds(); });
    for (std::thread& t : threads) t.join();
    EXPECT_EQ(made, 1);
    EXPECT_EQ(held, 8);
    EXPECT_FALSE(proof.open());
    Proof bad(StepId(8), {[] { return wrong("no"); }});
    EXPECT_FALSE(bad.holds());
    EXPECT_FALSE(bad.holds()) << "and stays wrong";
}

TEST(StepStore, AResultIsFoundBeforeItIsProvedAndItsProofIsHandedOn) {
    StepStore store;
    Unproved first, second;
    store.begin_evaluation(first);
    EXPECT_FALSE(store.find(1, first));
    bool asked = false;
    store.keep(1, a_result(10),
               std::make_shared<Proof>(StepId(5), std::vector<BodyCheck>{[&]() -> std::optional<Problem> {
                                           asked = true;
                                           return std::nullopt;
                                       }}),
               first);
    EXPECT_EQ(store.made(), 1u);
    ASSERT_TRUE(store.find(1, second)) << "another evaluation need not wait";
    EXPECT_EQ(store.reused(), 1u);
    EXPECT_EQ(second.proofs.size(), 1u) << "but stands on it too";
    EXPECT_FALSE(asked);
    EXPECT_TRUE(store.settle(second, {}));
    EXPECT_TRUE(asked);
    Unproved third;
    ASSERT_TRUE(store.find(1, third));
    EXPECT_TRUE(third.proofs.empty()) << "proved once for all";
    EXPECT_FALSE(store.is_checked_at_once(StepId(5)));
}

TEST(StepStore, WhatDoesNotHoldTakesAllThatMayStandOnItAway) {
    StepStore store;
    Unproved one;
    store.begin_evaluation(one);
    store.keep(1, a_result(10), nullptr, one);
    store.keep(2, a_result(11),
               std::make_shared<Proof>(StepId(5), std::vector<BodyCheck>{[] { return wrong("does not close"); }}), one);
    store.keep(3, a_result(12), nullptr, one); // made on top of it
    EXPECT_FALSE(store.settle(one, {}));
    EXPECT_TRUE(store.is_checked_at_once(StepId(5)));
    EXPECT_FALSE(store.is_checked_at_once(StepId(6)));
    Unproved two;
    EXPECT_FALSE(store.find(2, two));
    EXPECT_FALSE(store.find(3, two));
    // An evaluation that had found it before hears of it as well.
    EXPECT_FALSE(store.settle(one, {}));
}

TEST(StepStore, WhatWasMadeBeforeAProofFailedIsNotKeptAfterIt) {
    // One evaluation stands on a result that another one finds wrong: what it still makes on top of it is not believed.
    StepStore store;
    Unproved slow, quick, next;
    store.begin_evaluation(slow);
    store.keep(1, a_result(10),
               std::make_shared<Proof>(StepId(5), std::vector<BodyCheck>{[] { return wrong("does not close"); }}),
               slow);
    store.begin_evaluation(quick);
    ASSERT_TRUE(store.find(1, quick));
    EXPECT_FALSE(store.settle(quick, {}));
    store.keep(2, a_result(11), nullptr, slow);
    store.begin_evaluation(next);
    EXPECT_FALSE(store.find(2, next));
    store.keep(2, a_result(11), nullptr, next);
    EXPECT_TRUE(store.find(2, next));
    EXPECT_FALSE(store.settle(slow, {})) << "and it hears of it itself";
}

TEST(StepStore, AStoppedProofWaitsForTheNextOne) {
    StepStore store;
    Unproved one;
    int asked = 0;
    store.keep(1, a_result(10),
               std::make_shared<Proof>(StepId(5), std::vector<BodyCheck>{[&]() -> std::optional<Problem> {
                                           ++asked;
                                           return std::nullopt;
                                       }}),
               one);
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_TRUE(store.settle(one, stopped));
    EXPECT_EQ(asked, 0);
    Unproved two;
    ASSERT_TRUE(store.find(1, two));
    EXPECT_EQ(two.proofs.size(), 1u);
    EXPECT_TRUE(store.settle(two, {}));
    EXPECT_EQ(asked, 1);
}

TEST(StepStore, WhatWasNotAskedForLastsTwentyFourEvaluations) {
    StepStore store;
    Unproved none;
    store.begin_evaluation(none);
    store.keep(1, a_result(10), nullptr, none);
    store.keep(2, a_result(10), nullptr, none);
    for (int i = 0; i < 24; ++i) {
        store.begin_evaluation(none);
        EXPECT_TRUE(store.find(2, none));
        store.forget_old();
    }
    store.begin_evaluation(none);
    store.forget_old();
    EXPECT_FALSE(store.find(1, none));
    EXPECT_TRUE(store.find(2, none));
}

TEST(StepStore, TheOldestGoSoonerWhenAllThatIsKeptIsTooLarge) {
    // Balls of some thousand triangles each, with room for about four of them.
    auto ball = [](int number) {
        return StepResult{
            {{StepId{uint64_t(number)}, "", Body::from_mesh(sphere(10, 40, Vec3(30.0 * number, 0, 0)))}}, "", {}};
    };
    const size_t one = ball(1).bodies[0].body.weight().bytes;
    ASSERT_GT(one, 100000u);
    StepStore store(4 * one + one / 2);
    Unproved none;
    for (int i = 1; i <= 8; ++i) {
        store.begin_evaluation(none);
        store.keep(uint64_t(i), ball(i), nullptr, none);
        store.forget_old();
    }
    for (int i = 1; i <= 8; ++i) EXPECT_EQ(bool(store.find(uint64_t(i), none)), i > 4) << i;
    // What was just asked for stays, however much it is; one body under several keys is counted once.
    StepStore small(one / 2);
    StepResult shared = ball(1);
    small.begin_evaluation(none);
    for (int i = 0; i < 5; ++i) small.keep(uint64_t(i), shared, nullptr, none);
    small.forget_old();
    EXPECT_TRUE(small.find(4, none));
    StepStore enough(2 * one);
    enough.begin_evaluation(none);
    for (int i = 0; i < 5; ++i) enough.keep(uint64_t(i), shared, nullptr, none);
    enough.begin_evaluation(none);
    enough.forget_old();
    for (int i = 0; i < 5; ++i) EXPECT_TRUE(enough.find(uint64_t(i), none));
}

TEST(Evaluator_, AKernelThatLiesSubtlyIsSeenThenFoundOut) {
    // The face that is missing lies in a plane through the origin: it adds nothing to the volume, so that only the
    // proof finds it.
    auto project = project_of({part(
        "P",
        {step("block", {{"size_x", 10}, {"size_y", 10}, {"size_z", 10}, {"at_x", 5}, {"at_y", 5}}),
         step("block", {{"size_x", 4}, {"size_y", 4}, {"size_z", 20}, {"at_x", 11}, {"at_y", 11}, {"does", "cut"}})})});
    Evaluator evaluator;
    kernel_stand_in("lie");
    auto made = evaluator.make(project);
    ASSERT_TRUE(made);
    bool held = evaluator.settle(*made);
    kernel_stand_in("");
    auto again = evaluator.evaluate(project);
    ASSERT_TRUE(again);
    EXPECT_TRUE(again->parts[0].all_ok());
    EXPECT_NEAR(again->parts[0].mass.volume_mm3, 1000 - 10, 1e-6);
    EXPECT_EQ(again->parts[0].bodies[0].body.tessellation().faces.size(), 8u);
    EXPECT_FALSE(held) << "the wrong result did not hold";
    EXPECT_TRUE(evaluator.settle(*again));
}

TEST(Evaluator_, EvaluateAloneNeverAnswersWithTheLie) {
    auto project = project_of({part(
        "P", {step("block", {{"size_x", 10}, {"size_y", 10}, {"size_z", 10}, {"at_x", 5}, {"at_y", 5}}),
              step("cylinder",
                   {{"diameter", 3}, {"height", 30}, {"at_x", 10}, {"at_y", 10}, {"at_z", -5}, {"does", "cut"}})})});
    Evaluator evaluator;
    kernel_stand_in("lie");
    auto made = evaluator.evaluate(project);
    kernel_stand_in("");
    ASSERT_TRUE(made);
    EXPECT_TRUE(made->parts[0].all_ok());
    EXPECT_NEAR(made->parts[0].mass.volume_mm3, 1000 - 10 * pi * 1.5 * 1.5 / 4, 1e-3);
    EXPECT_EQ(made->parts[0].bodies[0].body.tessellation().faces.size(), 7u);
}

TEST(Evaluator_, ASourceThatStandsLaterInTheListIsMadeFirst) {
    auto project = project_of({part("Plate", {block(40, 30, 6), cut_with("Pin")}),
                               part("Pin", {step("cylinder", {{"diameter", 6}, {"height", 20}, {"at_z", -5}})})});
    auto made = Evaluator().evaluate(project);
    ASSERT_TRUE(made);
    ASSERT_EQ(made->parts.size(), 2u);
    EXPECT_EQ(made->parts[0].name, "Plate") << "answered in the order of the project";
    EXPECT_NEAR(made->parts[0].mass.volume_mm3, 40 * 30 * 6 - pi * 3.25 * 3.25 * 6, 1e-6);
    EXPECT_NEAR(made->parts[1].mass.volume_mm3, pi * 9 * 20, 1e-6);
}

TEST(Evaluator_, PartsInACircleSaySoAndTheOthersAreMade) {
    auto project =
        project_of({part("A", {block(10, 10, 10), cut_with("B")}), part("B", {block(8, 8, 30), cut_with("C")}),
                    part("C", {block(6, 6, 40), cut_with("A")}), part("D", {block(20, 20, 20)}),
                    part("E", {block(30, 30, 5), cut_with("D")}), part("F", {block(9, 9, 9), cut_with("F")})});
    auto made = Evaluator().evaluate(project);
    ASSERT_TRUE(made) << made.error().text();
    for (int i : {0, 1, 2, 5}) {
        ASSERT_FALSE(made->parts[size_t(i)].all_ok()) << i;
        EXPECT_NE(made->parts[size_t(i)].steps[1].says.find("circle"), std::string::npos)
            << made->parts[size_t(i)].steps[1].says;
    }
    EXPECT_TRUE(made->parts[3].all_ok() && made->parts[4].all_ok());
    EXPECT_NEAR(made->parts[4].mass.volume_mm3, (900 - 20.5 * 20.5) * 5, 1e-6);
}

TEST(Evaluator_, NoPartsAndAStopAreAnsweredToo) {
    auto none = Evaluator().evaluate(project_of({}));
    ASSERT_TRUE(none);
    EXPECT_TRUE(none->parts.empty());
    Task stopped;
    stopped.cancel.cancel();
    auto project = project_of({part("A", {block(10, 10, 10)}), part("B", {block(10, 10, 10)})});
    auto made = Evaluator().evaluate(project, stopped);
    ASSERT_FALSE(made);
    EXPECT_EQ(made.error().code, ProblemCode::Cancelled);
}

TEST(Evaluator_, ManyPartsSideBySideComeOutAsOneByOne) {
    // Random heaps of parts that are cut with one another; the same parts evaluated again in another order of the list
    // must have the same volumes, and those of the formula where nothing overlaps.
    std::mt19937 random(41); // fixed
    std::uniform_int_distribution<int> size(12, 40), which(0, 7);
    for (int round = 0; round < 3; ++round) {
        std::vector<json> parts;
        std::vector<double> want;
        std::vector<std::array<double, 2>> pins;
        for (int i = 0; i < 8; ++i) {
            const double across = 3 + i % 4, high = size(random);
            const std::string name = "Part " + std::to_string(i);
            if (i < 4) { // pins at places of their own
                parts.push_back(part(
                    name,
                    {step("cylinder", {{"diameter", across}, {"height", high}, {"at_x", 12 * i}, {"at_z", -20}})}));
                want.push_back(pi * across * across / 4 * high);
                pins.push_back({across, high - 20});
                continue;
            }
            std::vector<json> steps{step("block", {{"size_x", 60}, {"size_y", 10}, {"size_z", 6}, {"at_x", 18}})};
            double volume = 60 * 10 * 6;
            std::set<int> tools{which(random) % 4, which(random) % 4};
            for (int t : tools) {
                steps.push_back(cut_with("Part " + std::to_string(t)));
                const double gap = 0.25, deep = std::clamp(pins[size_t(t)][1] + gap, 0.0, 6.0);
                volume -= pi * std::pow(pins[size_t(t)][0] / 2 + gap, 2) * deep;
            }
            parts.push_back(part(name, steps));
            want.push_back(volume);
        }
        auto there = Evaluator().evaluate(project_of(parts));
        std::reverse(parts.begin(), parts.end());
        auto back = Evaluator().evaluate(project_of(parts));
        ASSERT_TRUE(there && back);
        for (size_t i = 0; i < 8; ++i) {
            EXPECT_NEAR(there->parts[i].mass.volume_mm3, want[i], 1e-6) << round << " " << i;
            EXPECT_NEAR(back->parts[7 - i].mass.volume_mm3, want[i], 1e-6) << round << " " << i;
        }
    }
}
