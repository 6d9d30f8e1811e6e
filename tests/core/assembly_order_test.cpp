// The order of putting things together, judged by what can be told by looking: a lid cannot go on before what is under
// it, a thing in a closed room cannot go in at all.
#include "made_project.h"
#include "project/assembly_order.h"
#include "project/sizes_to_measure.h"
#include "project/way_out.h"
#include <algorithm>

using namespace lp;
using namespace lp::test;

namespace {

json box_at(double x, double y, double z, double at_z, double at_x = 0) {
    return step("block", {{"size_x", x}, {"size_y", y}, {"size_z", z}, {"at_z", at_z}, {"at_x", at_x}});
}
json hollow(double x, double y, double z, double at_z) {
    return step("block", {{"size_x", x}, {"size_y", y}, {"size_z", z}, {"at_z", at_z}, {"does", "cut"}});
}

std::vector<AssemblyMove> order(const Made& m) {
    EXPECT_EQ(m.says(), "");
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    auto moves = assembly_order(m.evaluation, *analysis);
    EXPECT_TRUE(moves) << moves.error().text();
    return moves.value_or(std::vector<AssemblyMove>{});
}
std::string names(const std::vector<AssemblyMove>& moves) {
    std::string all;
    for (const AssemblyMove& move : moves) all += (all.empty() ? "" : ", ") + move.name;
    return all;
}

} // namespace

TEST(AssemblyOrder, WhatIsCoveredGoesInBeforeItsCover) {
    // A tray with a brick in it and a lid on top, told in the wrong order.
    const Made made = make_parts({{"Lid", json::array({box_at(40, 40, 3, 20)})},
                                  {"Brick", json::array({box_at(20, 20, 10, 3)})},
                                  {"Tray", {box_at(40, 40, 20, 0), hollow(30, 30, 20, 3)}}});
    const auto moves = order(made);
    ASSERT_EQ(names(moves), "Tray, Brick, Lid");
    EXPECT_TRUE(moves[0].from.isZero());
    for (size_t i : {1, 2}) {
        EXPECT_TRUE(moves[i].from.isApprox(Vec3::UnitZ())) << i;
        EXPECT_TRUE(moves[i].in_the_way.empty()) << moves[i].words();
    }
    EXPECT_GT(moves[1].apart_mm, 20 - 3) << "clear of the tray";
    EXPECT_GT(moves[2].apart_mm, moves[1].apart_mm) << "the lid further than the brick";
    EXPECT_EQ(moves[1].words().rfind("from above", 0), 0u) << moves[1].words();
}

TEST(AssemblyOrder, ADrawerComesFromTheFrontAndAPinFromItsSide) {
    // A case open to the front only; a pin through both walls of it from the left.
    const json box = json::array(
        {box_at(40, 40, 30, 0),
         step("block", {{"size_x", 34}, {"size_y", 60}, {"size_z", 24}, {"at_y", -13}, {"at_z", 3}, {"does", "cut"}}),
         step("cylinder",
              {{"diameter", 5}, {"height", 80}, {"along", "x"}, {"at_x", -40}, {"at_z", 15}, {"does", "cut"}})});
    const json drawer = json::array(
        {step("block", {{"size_x", 33.4}, {"size_y", 36}, {"size_z", 23.4}, {"at_y", -1}, {"at_z", 3.3}}),
         step("cylinder",
              {{"diameter", 5}, {"height", 80}, {"along", "x"}, {"at_x", -40}, {"at_z", 15}, {"does", "cut"}})});
    const json pin = json::array(
        {step("cylinder", {{"diameter", 4.6}, {"height", 44}, {"along", "x"}, {"at_x", -22}, {"at_z", 15}})});
    const auto moves = order(make_parts({{"Pin", pin}, {"Drawer", drawer}, {"Case", box}}));
    ASSERT_EQ(names(moves), "Case, Drawer, Pin");
    EXPECT_TRUE(moves[1].from.isApprox(-Vec3::UnitY())) << moves[1].words();
    EXPECT_GT(std::fabs(moves[2].from.x()), 0.99) << moves[2].words();
}

TEST(AssemblyOrder, SaysWhatCannotBeReached) { // act 2
    const Made made = make_parts(
        {{"Brick", json::array({step("block", {{"size_x", 23.4}, {"size_y", 23.4}, {"size_z", 19.4}, {"at_z", 5.3}})})},
         {"Shell", {box_at(40, 40, 30, 0), hollow(24, 24, 20, 5)}}});
    const auto moves = order(made);
    ASSERT_EQ(moves.size(), 2u);
    EXPECT_EQ(moves[1].in_the_way.size(), 1u);
    EXPECT_NE(moves[1].words().find("is in its way"), std::string::npos) << moves[1].words();
}

TEST(AssemblyOrder, KeepsToTheMakersOrderAndTellsWhatThatBlocks) {
    Made made = make_parts({{"Tray", {box_at(40, 40, 20, 0), hollow(30, 30, 20, 3)}},
                            {"Brick", json::array({box_at(20, 20, 10, 3)})},
                            {"Lid", json::array({box_at(40, 40, 3, 20)})}});
    const PartId tray = made.part(0).part, brick = made.part(1).part, lid = made.part(2).part;
    auto ordered = apply_edit(*made.project, SetAssembly{{tray, lid, brick}});
    ASSERT_TRUE(ordered);
    made.project = ordered->project;
    made.evaluation = *Evaluator().evaluate(made.project);
    const auto moves = order(made);
    ASSERT_EQ(names(moves), "Tray, Lid, Brick");
    EXPECT_FALSE(moves[2].in_the_way.empty()) << "the brick comes too late";
    // Saved, opened, a part removed; what makes no sense is refused or let go.
    auto again = project_from_text(project_to_json(*made.project).dump());
    ASSERT_TRUE(again);
    EXPECT_EQ(again->assembly, made.project->assembly);
    auto without = apply_edit(*made.project, RemovePart{lid});
    ASSERT_TRUE(without);
    EXPECT_EQ(without->project->assembly, (std::vector<PartId>{tray, brick}));
    EXPECT_FALSE(apply_edit(*made.project, SetAssembly{{tray, tray}}));
    EXPECT_FALSE(apply_edit(*made.project, SetAssembly{{PartId(99)}}));
    EXPECT_TRUE(apply_edit(*made.project, SetAssembly{{}})->project->assembly.empty());
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"assembly":7,"parts":[]})"));
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"assembly":["x"],"parts":[]})"));
}

namespace {

/// A case with a shaft on its left and a room beside it, under a roof; a slug in that room.
Made slug_in_a_case(const json& parameters = json::object(), const json& more = json::array()) {
    json slug = json::array({box_at(18, 18, 8, 5.3, 15)});
    for (const json& one : more) slug.push_back(one);
    return make_parts(
        {{"Case",
          {box_at(60, 60, 40, 0),
           step("block", {{"size_x", 20}, {"size_y", 20}, {"size_z", 40}, {"at_x", -15}, {"at_z", 5}, {"does", "cut"}}),
           step("block", {{"size_x", 50}, {"size_y", 20}, {"size_z", 10}, {"at_z", 5}, {"does", "cut"}})}},
         {"Slug", slug}},
        parameters);
}
Made led(const Made& made, std::vector<TypedLeg> legs) {
    const auto edit = apply_edit(*made.project, SetWayOut{made.part(1).part, std::move(legs)});
    EXPECT_TRUE(edit) << edit.error().text();
    Made next = made;
    next.project = edit->project;
    next.evaluation = *Evaluator().evaluate(next.project);
    return next;
}

} // namespace

TEST(AssemblyOrder, AWayOfItsOwnLeadsRoundACorner) {
    const Made straight = slug_in_a_case();
    EXPECT_EQ(order(straight)[1].in_the_way, std::vector<std::string>{"Case"}) << "no straight way is free";
    const Made made = led(straight, {{"left", "30"}, {"up", "20 mm"}});
    const AssemblyMove move = order(made)[1];
    EXPECT_TRUE(move.in_the_way.empty()) << move.words();
    EXPECT_EQ(move.words().rfind("from above, then 30 mm from the left", 0), 0u) << move.words();
    ASSERT_EQ(move.legs.size(), 1u);
    EXPECT_TRUE(move.legs[0].isApprox(Vec3(-30, 0, 0)));
    EXPECT_TRUE(move.from.isApprox(Vec3::UnitZ()));
    EXPECT_NEAR(move.apart_mm, 40 - 5.3 + 8, 1e-6) << "out of the shaft, and 8 more";
    // On its way: first to the left, then up, evenly by length.
    EXPECT_TRUE(move.moved_by(0).isZero());
    EXPECT_TRUE(move.moved_by(15 / 72.7).isApprox(Vec3(-15, 0, 0)));
    EXPECT_TRUE(move.moved_by(30 / 72.7).isApprox(Vec3(-30, 0, 0)));
    EXPECT_TRUE(move.moved_by(1).isApprox(Vec3(-30, 0, 42.7)));
    // Too short or the wrong way round it runs into the case; an obstacle in the first leg counts too.
    for (std::vector<TypedLeg> wrong : {std::vector<TypedLeg>{{"left", "12"}, {"up", "20"}},
                                        {{"up", "5"}, {"left", "30"}, {"up", "20"}},
                                        {{"right", "2"}, {"left", "80"}}})
        EXPECT_EQ(order(led(straight, wrong))[1].in_the_way, std::vector<std::string>{"Case"}) << leg_words(wrong[0]);
}

TEST(AssemblyOrder, AWayFollowsNumbersAndIsKept) {
    const Made made = led(slug_in_a_case({{"shift", "30 mm"}}), {{"left", "shift"}, {"up", "20"}});
    EXPECT_TRUE(order(made)[1].in_the_way.empty());
    const auto less = apply_edit(*made.project, SetParameter{"shift", "12 mm", {}, {}});
    ASSERT_TRUE(less);
    Made nearer = made;
    nearer.project = less->project;
    nearer.evaluation = *Evaluator().evaluate(nearer.project);
    EXPECT_FALSE(order(nearer)[1].in_the_way.empty());
    const auto renamed = apply_edit(*made.project, RenameParameter{"shift", "aside"});
    ASSERT_TRUE(renamed);
    EXPECT_EQ(renamed->project->parts[1]->way_out[0].by, "aside");
    EXPECT_FALSE(apply_edit(*made.project, RemoveParameter{"shift"})) << "the way needs it";
    const auto again = project_from_text(project_to_json(*made.project).dump());
    ASSERT_TRUE(again);
    EXPECT_EQ(*again->parts[1], *made.project->parts[1]);
    // What makes no sense.
    const PartId slug = made.part(1).part;
    auto edit = [&](std::vector<TypedLeg> legs) { return apply_edit(*made.project, SetWayOut{slug, std::move(legs)}); };
    EXPECT_FALSE(edit({{"left", "nothing"}}));
    EXPECT_FALSE(edit({{"left", "0"}}));
    EXPECT_FALSE(edit({{"left", "-3"}}));
    EXPECT_FALSE(edit({{"left", "1e9"}}));
    EXPECT_FALSE(edit(std::vector<TypedLeg>(21, {"up", "1"})));
    EXPECT_FALSE(apply_edit(*made.project, SetWayOut{PartId(99), {{"up", "1"}}}));
    EXPECT_TRUE(edit({}));
    for (const char* wrong : {"", "up", "12", "sideways 12", "along"}) EXPECT_FALSE(leg_typed(wrong)) << wrong;
    EXPECT_EQ(leg_typed(" left by shift + 2 ")->by, "shift + 2");
    EXPECT_EQ(leg_words({"up", "12"}), "up by 12 mm");
    for (const char* wrong : {R"("up")", R"([{"to":"up"}])", R"([{"to":"sideways","by":"3"}])", R"([3])"})
        EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"parts":[{"name":"P","way_out":)" +
                                       std::string(wrong) + "}]}"))
            << wrong;
}

TEST(AssemblyOrder, AWayAlongADrawnLine) {
    json elements = json::array();
    const std::array<double, 2> places[] = {{-15, 80}, {-15, 10}, {15, 10}};
    for (size_t i = 0; i < 2; ++i)
        elements.push_back({{"kind", "line"}, {"points", json::array({places[i], places[i + 1]})}});
    const Made made = led(
        slug_in_a_case(json::object(),
                       json::array({step("outline", {{"on", "xz"}, {"drawing", {{"elements", elements}}}}, "Path")})),
        {{"along", "Path"}});
    const AssemblyMove move = order(made)[1];
    EXPECT_TRUE(move.in_the_way.empty()) << move.words();
    ASSERT_EQ(move.legs.size(), 1u) << "from the end that is in the slug, whichever way it was drawn";
    EXPECT_TRUE(move.legs[0].isApprox(Vec3(-30, 0, 0)));
    const Part& slug = *made.project->parts[1];
    const auto renamed = apply_edit(*made.project, NameStep{slug.id, slug.steps[1].id, "Lane"});
    ASSERT_TRUE(renamed) << renamed.error().text();
    EXPECT_EQ(renamed->project->parts[1]->way_out[0].by, "Lane") << "the step's name is followed";
    const AssemblyMove gone = order(led(made, {{"along", "Other"}}))[1];
    EXPECT_NE(gone.words().find("no drawn line"), std::string::npos) << gone.words();
}

TEST(AssemblyOrder, ThreadsTurnInAndThingsApartStandAlone) {
    const Made made =
        make_parts({{"Bolt", json::array({step("thread", {{"size", "M10"}, {"length", 12}, {"does", "new"}})})},
                    {"Far", json::array({box_at(10, 10, 10, 0, 200)})}});
    const auto moves = order(made);
    ASSERT_EQ(moves.size(), 2u);
    EXPECT_TRUE(moves[0].from.isZero());
    EXPECT_TRUE(moves[1].from.isZero()) << "nothing is put to anything";
    Task stopped;
    stopped.cancel.cancel();
    Analyser analyser;
    EXPECT_FALSE(assembly_order(made.evaluation, *analyser.analyse(made.evaluation), stopped));
    EXPECT_TRUE(order(make_parts({})).empty());
}

TEST(SizesToMeasure, AreWhatACaliperReachesWithWhatThePrinterMakesOfThem) {
    const Made made = make({block(40, 30, 10), step("cylinder", {{"diameter", 8}, {"height", 30}, {"does", "cut"}}),
                            step("cylinder", {{"diameter", 12}, {"height", 20}, {"at_x", 12}}),
                            step("cylinder", {{"diameter", 3},
                                              {"height", 90},
                                              {"along", "x"},
                                              {"at_x", -45},
                                              {"at_z", 5},
                                              {"at_y", 10},
                                              {"does", "cut"}})});
    ASSERT_EQ(made.says(), "");
    Analyser analyser;
    auto analysis = analyser.analyse(made.evaluation);
    const auto sizes = sizes_to_measure(made.part(), *analysis->parts[0], made.project->printer);
    ASSERT_EQ(sizes.size(), 5u) << "three sizes, a peg, an upright hole; the lying hole says little";
    EXPECT_NEAR(sizes[0].drawn_mm, 40, 1e-9);
    EXPECT_NEAR(sizes[0].expected_mm, 40.2, 1e-9) << "0.1 on either side: common practice";
    EXPECT_NEAR(sizes[2].drawn_mm, 20, 1e-9);
    EXPECT_EQ(sizes[2].expected_mm, sizes[2].drawn_mm);
    EXPECT_EQ(sizes[3].what, "outside, round");
    EXPECT_NEAR(sizes[3].expected_mm, 12.2, 1e-9);
    EXPECT_EQ(sizes[4].what, "hole");
    EXPECT_NEAR(sizes[4].expected_mm, 7.8, 1e-9);
    EXPECT_EQ(sizes_to_measure(made.part(), *analysis->parts[0], made.project->printer, 4).size(), 4u);
    EXPECT_TRUE(sizes_to_measure({}, {}, {}).empty());
}

TEST(AssemblyOrder, AHookClicksInAndIsInNobodysWay) {
    // A tub with a lid whose two hooks reach into its walls; the lid's number of them is told by their steps.
    const json hook{{"on", "bottom of plate"}, {"at_y", "20"}, {"length", "18"}, {"catches", "1.2"}};
    json right = hook, left = hook;
    right["at_x"] = "56.75";
    left["at_x"] = "3.25";
    left["turn"] = "180 deg";
    auto thing = [&](const json& lid) {
        return make_parts(
            {{"Tub", json::array(
                         {block(60, 40, 30, "tub"),
                          step("block", {{"size_x", 54}, {"size_y", 34}, {"size_z", 30}, {"at_z", 3}, {"does", "cut"}}),
                          step("cut_with", {{"tool", "Lid"}, {"fit", "slide"}})})},
             {"Lid", lid}});
    };
    const json plate = step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 3}, {"at_z", 30.25}}, "plate");
    auto moves_of = [](const Made& made) {
        Analyser analyser;
        auto analysis = analyser.analyse(made.evaluation);
        EXPECT_TRUE(analysis);
        auto moves = assembly_order(made.evaluation, *analysis);
        EXPECT_TRUE(moves);
        return moves.value_or(std::vector<AssemblyMove>{});
    };
    const Made snapped = thing(json::array({plate, step("snap_hook", right), step("snap_hook", left)}));
    ASSERT_EQ(snapped.says(), "");
    auto moves = moves_of(snapped);
    ASSERT_EQ(moves.size(), 2u);
    EXPECT_EQ(moves[1].name, "Lid");
    EXPECT_TRUE(moves[1].in_the_way.empty()) << moves[1].words();
    EXPECT_NE(moves[1].words().find("from above; clicks into Tub"), std::string::npos) << moves[1].words();
    // The same shape of blocks does not give way.
    const Made stiff = thing(json::array(
        {plate, step("block", {{"size_x", 1.8}, {"size_y", 8}, {"size_z", 20}, {"at_x", 25.8}, {"at_z", 11}}),
         step("block", {{"size_x", 2}, {"size_y", 8}, {"size_z", 2}, {"at_x", 27.5}, {"at_z", 12}})}));
    ASSERT_EQ(stiff.says(), "");
    moves = moves_of(stiff);
    ASSERT_EQ(moves.size(), 2u);
    EXPECT_NE(moves[1].words().find("in its way"), std::string::npos) << moves[1].words();
}
