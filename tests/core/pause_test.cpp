// Where a print has to stop for what is laid in: layers by hand, what slides or falls out, roofs that do not hold.
#include "layers/region_tools.h"
#include "made_project.h"
#include "project/analysis.h"
#include "project/findings.h"
#include "project/pauses.h"
#include <gtest/gtest.h>

using namespace lp;
using namespace lp::test;

namespace {

Region square(double side, double at = 0) {
    const double h = side / 2;
    return {{grid_place({at - h, -h}), grid_place({at + h, -h}), grid_place({at + h, h}), grid_place({at - h, h})}};
}
/// A block of 20 with a pocket, in layers: open from one layer to another, from 0.
std::vector<Region> pocketed(size_t layers, size_t from, size_t to, double pocket) {
    std::vector<Region> part(layers, square(20));
    for (size_t k = from; k < to; ++k) part[k] = subtract_regions(part[k], square(pocket));
    return part;
}
std::vector<Region> thing(size_t layers, size_t from, size_t to, double side, double at = 0) {
    std::vector<Region> all(layers);
    for (size_t k = from; k < to; ++k) all[k] = square(side, at);
    return all;
}
constexpr LayerHeights heights{0.2, 0.2};

/// A plate with a stand-in nut in a pocket of its own.
Made nut_in(double pocket_low, double pocket_high, const json& more = {}) {
    json holder = json::array({block(20, 20, 12), step("block",
                                                       {{"size_x", 8.5},
                                                        {"size_y", 8.5},
                                                        {"size_z", pocket_high - pocket_low},
                                                        {"at_z", pocket_low},
                                                        {"does", "cut"}},
                                                       "room")});
    for (const json& s : more) holder.push_back(s);
    json whole{
        {"format", "loose-peg"},
        {"version", 1},
        {"parts",
         {{{"name", "Holder"}, {"steps", holder}},
          {{"name", "M5 nut"},
           {"stand_in", true},
           {"steps",
            json::array({step("block", {{"size_x", 8}, {"size_y", 8}, {"size_z", 4}, {"at_z", pocket_low}})})}}}}};
    auto project = project_from_text(whole.dump());
    EXPECT_TRUE(project) << (project ? "" : project.error().text());
    Made made;
    made.project = std::make_shared<Project>(project.value_or(Project{}));
    auto evaluation = Evaluator().evaluate(made.project);
    EXPECT_TRUE(evaluation);
    if (evaluation) made.evaluation = std::move(*evaluation);
    return made;
}

} // namespace

TEST(Pause, StopsBeforeTheLayerThatCloses) {
    // A pocket of 8.5 from layer 16 to 37 (z 3.0 to 7.2): the printer stops after 36 layers at 7.2, 41 with a raft of
    // five.
    const Pause pause = find_pause(pocketed(60, 15, 36, 8.5), thing(60, 15, 35, 8), 7.0, heights);
    EXPECT_TRUE(pause.needed);
    EXPECT_TRUE(pause.enters);
    EXPECT_EQ(pause.after, 36u);
    EXPECT_NEAR(pause.at_mm, 7.2, 1e-9);
    EXPECT_NEAR(pause.proud_mm, -0.2, 1e-9);
    EXPECT_NEAR(pause.roof_span_mm, 8.4, 0.05);
    EXPECT_TRUE(pause.sound);
    EXPECT_TRUE(find_pause(pocketed(60, 15, 36, 8.5), thing(60, 15, 35, 8), 7.0, heights, {.bridge_limit_mm = 6}).sound)
        << "it lies a layer under the roof and carries it";
    EXPECT_FALSE(
        find_pause(pocketed(60, 15, 36, 8.5), thing(60, 15, 34, 8), 6.8, heights, {.bridge_limit_mm = 6}).sound)
        << "nothing carries that roof";
    EXPECT_FALSE(find_pause(pocketed(60, 15, 36, 8.5), thing(60, 15, 36, 8), 7.3, heights).sound)
        << "the nozzle meets it";
}

TEST(Pause, NoneForWhatGoesInLater) {
    const auto nut = thing(60, 15, 35, 8);
    EXPECT_FALSE(find_pause(pocketed(60, 15, 60, 8.5), nut, 7, heights).needed) << "open above";
    EXPECT_FALSE(find_pause(pocketed(60, 0, 36, 8.5), nut, 7, heights).needed) << "it falls out below";
    auto slotted = pocketed(60, 15, 36, 8.5);
    for (size_t k = 15; k < 36; ++k) slotted[k] = subtract_regions(slotted[k], square(8.5, 8));
    EXPECT_FALSE(find_pause(slotted, nut, 7, heights).needed) << "it slides in from the side";
    EXPECT_FALSE(find_pause(pocketed(60, 15, 36, 8.5), thing(60, 0, 0, 8), 0, heights).needed) << "no thing";
    EXPECT_FALSE(find_pause({}, nut, 7, heights).needed);
    // A lip inside the pocket is in its way.
    auto lip = pocketed(60, 15, 36, 8.5);
    lip[25] = subtract_regions(square(20), square(7));
    const Pause blocked = find_pause(lip, nut, 7, heights);
    EXPECT_FALSE(blocked.enters);
    EXPECT_EQ(blocked.blocked_in, 26u);
}

TEST(Pause, OfAProjectWithAndWithoutARaft) {
    const Made made = nut_in(3, 7.2);
    const auto pauses = pauses_of(made.evaluation, made.project->parts[0]->id);
    ASSERT_EQ(pauses.size(), 1u);
    EXPECT_EQ(pauses[0].thing, "M5 nut");
    EXPECT_EQ(pauses[0].layer(), 37u) << "the first that is printed after it";
    EXPECT_NEAR(pauses[0].pause.at_mm, 7.2, 1e-9);
    EXPECT_EQ(pauses[0].words(), "M5 nut goes in after layer 36, at 7.2 mm");
    // Moved up by 0.6: three layers later.
    const Made higher = nut_in(3.6, 7.8);
    ASSERT_EQ(pauses_of(higher.evaluation, higher.project->parts[0]->id).size(), 1u);
    EXPECT_EQ(pauses_of(higher.evaluation, higher.project->parts[0]->id)[0].layer(), 40u);
    EXPECT_TRUE(pauses_of(made.evaluation, made.project->parts[1]->id).empty()) << "a stand-in is not printed";
    auto raised = std::make_shared<Project>(*made.project);
    auto part = std::make_shared<Part>(*raised->parts[0]);
    part->supports.options.raft_layers = 5;
    raised->parts[0] = part;
    auto evaluation = Evaluator().evaluate(raised);
    ASSERT_TRUE(evaluation);
    EXPECT_EQ(pauses_of(*evaluation, part->id).at(0).layer_with_raft(), 42u);
}

TEST(Pause, ByHandAtAnyHeight) {
    auto stops = [](std::vector<StopByHand> wanted, int raft = 0) {
        Made made = make(json::array({block(20, 20, 12)}), {{"band", "7.2 mm"}});
        Edit edit = SetStops{made.project->parts[0]->id, std::move(wanted)};
        auto next = apply_edit(*made.project, edit);
        EXPECT_TRUE(next) << (next ? "" : next.error().text());
        auto project = std::make_shared<Project>(*next->project);
        auto part = std::make_shared<Part>(*project->parts[0]);
        part->supports.options.raft_layers = raft;
        project->parts[0] = part;
        auto evaluation = Evaluator().evaluate(project);
        return pauses_of(*evaluation, part->id);
    };
    auto one = stops({{"band", "white"}});
    ASSERT_EQ(one.size(), 1u);
    EXPECT_EQ(one[0].pause.after, 36u);
    EXPECT_NEAR(one[0].pause.at_mm, 7.2, 1e-9);
    EXPECT_EQ(one[0].words(), "white: stops after layer 36, at 7.2 mm");
    EXPECT_EQ(stops({{"band", ""}}, 5)[0].layer_with_raft(), 42u) << "the first layer printed after it";
    // Between layers: the one that holds the height is printed whole.
    EXPECT_EQ(stops({{"7.05 mm", ""}})[0].pause.after, 36u);
    EXPECT_EQ(stops({{"0.01 mm", ""}})[0].pause.after, 1u);
    // Sorted; one above the part says so.
    const auto two = stops({{"40 mm", "red"}, {"2 mm", "blue"}});
    ASSERT_EQ(two.size(), 2u);
    EXPECT_EQ(two[0].thing, "blue");
    EXPECT_FALSE(two[1].pause.sound);
    EXPECT_NE(two[1].words().find("no layer is left at 40 mm"), std::string::npos);
    // What cannot be is refused; a number's new name is followed.
    const Made made = make(json::array({block(20, 20, 12)}), {{"band", "7.2 mm"}});
    const PartId id = made.project->parts[0]->id;
    for (const char* bad : {"", "soon", "-1 mm", "0 mm", "1e9 mm", "band / 0"})
        EXPECT_FALSE(apply_edit(*made.project, SetStops{id, {{bad, ""}}})) << bad;
    EXPECT_FALSE(apply_edit(*made.project, SetStops{id, std::vector<StopByHand>(201, {"1 mm", ""})}));
    auto next = apply_edit(*made.project, SetStops{id, {{"band + 1 mm", "white"}}});
    ASSERT_TRUE(next);
    auto renamed = apply_edit(*next->project, RenameParameter{"band", "stripe"});
    ASSERT_TRUE(renamed) << renamed.error().text();
    EXPECT_EQ(renamed->project->parts[0]->stops[0].at, "stripe + 1 mm");
    auto again = project_from_text(project_to_json(*renamed->project).dump());
    ASSERT_TRUE(again);
    EXPECT_EQ(again->parts[0]->stops, renamed->project->parts[0]->stops);
}

TEST(Pause, WhatDoesNotWorkIsAFinding) {
    auto buried = [](const Made& made) {
        Analyser analyser;
        const auto analysis = analyser.analyse(made.evaluation);
        EXPECT_TRUE(analysis);
        for (const PartFinding& f : all_findings(made.evaluation, &*analysis))
            if (f.finding.kind == FindingKind::UnsoundStop) return f.finding.says;
        return std::string();
    };
    EXPECT_EQ(buried(nut_in(3, 7.2)), "");
    // A roof of 8.5 over the pocket is wider than this printer bridges.
    Made wide = nut_in(3, 7.8); // the nut is lower: it does not carry the roof
    auto project = std::make_shared<Project>(*wide.project);
    project->printer.bridge_limit_mm = 5;
    wide.project = project;
    wide.evaluation = std::move(*Evaluator().evaluate(wide.project));
    EXPECT_NE(buried(wide), "");
}

TEST(Pause, AClosedPocketOfAHoleByWhatGoesIn) {
    const Made made = make({block(20, 20, 12), step("hole_for", {{"piece", "magnet 7x2"},
                                                                 {"how", "seats"},
                                                                 {"skin", 0.4},
                                                                 {"on", "top of b"},
                                                                 {"at_x", 10},
                                                                 {"at_y", 10}})});
    ASSERT_EQ(made.says(), "");
    const auto pauses = pauses_of(made.evaluation, made.project->parts[0]->id);
    ASSERT_EQ(pauses.size(), 1u);
    EXPECT_NEAR(pauses[0].pause.at_mm, 11.6, 1e-9) << "two layers of skin over it";
    EXPECT_EQ(pauses[0].layer(), 59u);
}
