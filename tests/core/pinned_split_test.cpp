// Halves with pins, against closed formulas; the mast that is longer than the bed; put together again it is as before.
#include "made_project.h"
#include "mesh/combine.h"
#include "mesh/cross_section.h"
#include "project/cures.h"
#include "project/findings.h"
#include "project/split_for_bed.h"
#include "steps/splitting/pin_places.h"
#include <numbers>
#include <set>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

double volume_of(const Made& m, size_t body) {
    return m.part().bodies.at(body).body.mass().volume_mm3;
}

std::optional<PartFinding> too_big(const Made& m) {
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    for (const PartFinding& f : all_findings(m.evaluation, &*analysis))
        if (f.ref.kind == FindingKind::TooBig) return f;
    return std::nullopt;
}

} // namespace

TEST(PinnedSplit, HalvesHaveTheHolesOfTheirPins) {
    const Made made = make({block(60, 24, 40, "bar"), step("pinned_split", {{"by", "xy"},
                                                                            {"distance", "25 mm"},
                                                                            {"across", "6 mm"},
                                                                            {"deep", "8 mm"},
                                                                            {"fit", "0.1 mm"},
                                                                            {"goes", "either way"}})});
    ASSERT_EQ(made.says(), "");
    ASSERT_EQ(made.part().bodies.size(), 4u) << "two halves and two pins";
    // A hole is wider than its pin by the gap, and 0.3 deeper at its end.
    const double hole = pi * 3.1 * 3.1 * 8.3;
    EXPECT_NEAR(volume_of(made, 0), 60 * 24 * 25 - 2 * hole, 0.5);
    EXPECT_NEAR(volume_of(made, 1), 60 * 24 * 15 - 2 * hole, 0.5);
    // A pin: a cylinder whose two rims of 0.6 are taken off (cones: pi h (R2 + Rr + r2) / 3).
    const double pin = pi * 9 * (16 - 1.2) + 2 * pi * 0.6 * (9 + 3 * 2.4 + 2.4 * 2.4) / 3;
    for (size_t i : {2, 3}) {
        EXPECT_NEAR(volume_of(made, i), pin, 0.05);
        EXPECT_TRUE(made.part().bodies[i].body.is_exact());
    }
    // As far apart as the cut has room: a wall of two lines and the gap stay at the border.
    const Vec3 a = made.part().bodies[2].body.box().center(), b = made.part().bodies[3].body.box().center();
    const double most_x = 60 - 2 * (3 + 0.1 + 0.9), most_y = 24 - 2 * (3 + 0.1 + 0.9);
    EXPECT_GT((a - b).norm(), std::hypot(most_x, most_y) - 2.5);
    EXPECT_LE((a - b).norm(), std::hypot(most_x, most_y) + 1e-6);
    EXPECT_NEAR(a.z(), 25, 1e-9);
    EXPECT_NE(made.step(1).says.find("2 pins"), std::string::npos) << made.step(1).says;
}

TEST(PinnedSplit, GoesTogetherOneWayOnly) {
    const Made made = make({block(60, 24, 40), step("pinned_split", {{"distance", "20 mm"}, {"fit", "0.1 mm"}})});
    ASSERT_EQ(made.says(), "");
    const double thick = made.part().bodies[2].body.box().sizes().x(),
                 thin = made.part().bodies[3].body.box().sizes().x();
    EXPECT_NEAR(thick, 6, 1e-6);
    EXPECT_NEAR(thin, 4.5, 1e-6);
    // Turned round by half a turn about the middle the thick pin stands in the thin one's hole: it would overlap.
    EXPECT_GT(thick, thin + 2 * 0.1);
    EXPECT_NE(made.step(1).says.find("one way only"), std::string::npos);
    const Made alone = make({block(60, 24, 40), step("pinned_split", {{"distance", "20 mm"}, {"pins", "1"}})});
    EXPECT_NE(alone.step(1).says.find("One pin alone"), std::string::npos) << alone.step(1).says;
}

TEST(PinnedSplit, SquarePinsOtherPlanesAndNoPins) {
    const Made square = make({block(30, 80, 20), step("pinned_split", {{"by", "xz"},
                                                                       {"distance", "5 mm"},
                                                                       {"pin", "square"},
                                                                       {"across", "5 mm"},
                                                                       {"fit", "0.1 mm"},
                                                                       {"goes", "either way"}})});
    ASSERT_EQ(square.says(), "");
    EXPECT_NEAR(volume_of(square, 2), 5 * 5 * 16, 1e-6);
    EXPECT_NEAR(square.part().bodies[2].body.box().center().y(), -5, 1e-9) << "the plane looks to the front";
    EXPECT_NEAR(volume_of(square, 0) + volume_of(square, 1), 30 * 80 * 20 - 4 * 5.2 * 5.2 * 8.3, 1e-3);
    const Made none = make({block(30, 80, 20), step("pinned_split", {{"pins", "0"}, {"distance", "9 mm"}})});
    ASSERT_EQ(none.part().bodies.size(), 2u);
    EXPECT_NEAR(volume_of(none, 0), 30 * 80 * 9, 1e-6);
}

TEST(PinnedSplit, AlongADrawnLineWithSteps) {
    auto drawn = [](std::vector<std::array<double, 2>> p) {
        json list = json::array();
        for (size_t i = 0; i + 1 < p.size(); ++i)
            list.push_back({{"kind", "line"}, {"points", json::array({p[i], p[i + 1]})}});
        return step("outline", {{"on", "xz"}, {"drawing", {{"elements", list}}}}, "cut");
    };
    auto halves = [&](const json& line) {
        return make({block(80, 24, 40), line, step("pinned_split", {{"outline", "cut"}, {"fit", "0.1 mm"}})});
    };
    const Made made = halves(drawn({{-60, 26}, {0, 26}, {0, 14}, {60, 14}}));
    ASSERT_EQ(made.says(), "");
    ASSERT_EQ(made.part().bodies.size(), 4u) << made.step(2).says;
    // One pin on either step, the second three quarters as thick; a gap of 0.1 where the line goes down, 12 high.
    const double holes = pi * (3.1 * 3.1 + 2.35 * 2.35) * 8.3;
    EXPECT_NEAR(volume_of(made, 0), 40 * 24 * (26 + 14) - holes, 0.5);
    EXPECT_NEAR(volume_of(made, 1), 40 * 24 * (14 + 26) - holes - 0.1 * 12 * 24, 0.5);
    std::set<double> heights;
    for (size_t i : {2, 3}) {
        const Vec3 middle = made.part().bodies[i].body.box().center();
        heights.insert(std::round(middle.z()));
        EXPECT_GT(std::fabs(middle.x()), 3 + 0.1 + 0.9 - 1e-6) << "a wall to where the line goes down";
        EXPECT_EQ(middle.x() < 0, middle.z() > 20);
    }
    EXPECT_EQ(heights, (std::set<double>{14, 26}));
    // The halves lie on each other and come apart straight up, without ever running into each other.
    const Body &lower = made.part().bodies[0].body, &upper = made.part().bodies[1].body;
    for (double up : {0.0, 0.01, 5.0, 30.0}) {
        Transform by = Transform::Identity();
        by.translation().z() = up;
        const auto both = combine(Operation::Common, lower, {*moved(upper, by)}, {});
        EXPECT_TRUE(!both || both->body.mass().volume_mm3 < 1e-6) << up;
    }
    // A slanting line between them is no obstacle, and the pins stand on the level stretches.
    const Made slanted = halves(drawn({{-60, 22}, {-8, 22}, {8, 18}, {60, 18}}));
    ASSERT_EQ(slanted.says(), "");
    EXPECT_EQ(slanted.part().bodies.size(), 4u);
    for (const auto& wrong :
         {drawn({{-60, 16}, {10, 16}, {10, 20}, {0, 20}, {0, 24}, {60, 24}}),
          step("outline",
               {{"on", "xz"},
                {"drawing",
                 {{"elements",
                   json::array({{{"kind", "circle"}, {"points", json::array({{0, 20}})}, {"radius", 8}}})}}}},
               "cut")}) {
        const Made refused = halves(wrong);
        EXPECT_NE(refused.says(), "");
        EXPECT_EQ(refused.part().bodies.size(), 1u) << refused.says();
    }
    EXPECT_NE(halves(drawn({{-60, 16}, {10, 16}, {10, 20}, {0, 20}, {0, 24}, {60, 24}})).says().find("turns back"),
              std::string::npos);
}

TEST(PinnedSplit, SaysWhatHasNoRoom) {
    auto said = [](const json& fields) { return make({block(40, 9, 40), step("pinned_split", fields)}).says(); };
    const std::string narrow = said({{"distance", "20 mm"}, {"across", "8 mm"}});
    EXPECT_NE(narrow.find("no room for pins"), std::string::npos) << narrow;
    EXPECT_NE(said({{"distance", "90 mm"}}).find("misses"), std::string::npos);
    EXPECT_NE(said({{"distance", "20 mm"}, {"across", "0.6 mm"}}).find("three lines"), std::string::npos);
    EXPECT_NE(said({{"distance", "38 mm"}, {"across", "4 mm"}}).find("no room"), std::string::npos)
        << "deeper than what is above";
    EXPECT_EQ(said({{"distance", "20 mm"}, {"across", "4 mm"}}), "");
    EXPECT_NE(said({{"distance", "20 mm"}, {"across", "-4 mm"}}), "");
}

TEST(PinPlaces, LieWellInsideAllTheWay) {
    // A cone that narrows: at the plane there is room that is gone as deep as the pin goes.
    const Made cone = make(json::array({step("cone", {{"diameter", 60}, {"height", 60}})}));
    Transform plane = Transform::Identity();
    plane.translate(Vec3(0, 0, 20));
    double widest = 0;
    const auto places = pin_places(cone.body().mesh(), plane, {5, 10}, 3, &widest);
    ASSERT_EQ(places.size(), 3u);
    for (const Vec2& p : places) EXPECT_LE(p.norm(), 15 - 5 + 0.05) << "where it is 30 wide, ten above the plane";
    EXPECT_NEAR(widest, 15, 0.3);
    EXPECT_TRUE(pin_places(cone.body().mesh(), plane, {16, 10}, 2).empty());
    EXPECT_EQ(pin_places(cone.body().mesh(), plane, {5, 10}, 1).size(), 1u);
    EXPECT_TRUE(pin_places({}, plane, {5, 10}, 2).empty());
}

TEST(SplitForBed, AMastLongerThanTheBedIsOfferedTwoHalves) { // act 1
    // 350 mm, twisted, with letters low on it and a thin waist in the middle.
    json mast = json::array(
        {step("block", {{"size_x", 40}, {"size_y", 16}, {"size_z", 350}}, "mast"),
         step("block", {{"size_x", 60}, {"size_y", 5}, {"size_z", 30}, {"at_y", 8}, {"at_z", 160}, {"does", "cut"}}),
         step("block", {{"size_x", 60}, {"size_y", 5}, {"size_z", 30}, {"at_y", -8}, {"at_z", 160}, {"does", "cut"}}),
         step("twist", {{"angle", "40 deg"}})});
    const Made made = make(mast);
    ASSERT_EQ(made.says(), "");
    const auto found = too_big(made);
    ASSERT_TRUE(found);
    const auto split = best_bed_split(*made.part().mesh, {220, 220, 250});
    ASSERT_TRUE(split);
    EXPECT_EQ(split->axis, 2);
    EXPECT_TRUE(split->at_mm < 158 || split->at_mm > 192) << "not through the waist: " << split->at_mm;
    EXPECT_GE(split->at_mm, 100);
    EXPECT_LE(split->at_mm, 250);
    EXPECT_NEAR(split->section_mm2, 40 * 16, 20);
    Evaluator evaluator;
    auto cures = tried_cures(evaluator, made.evaluation, *found);
    ASSERT_TRUE(cures) << cures.error().text();
    ASSERT_FALSE(cures->empty());
    EXPECT_EQ(cures->front().cure.words, "Split with pins");
    EXPECT_NE(cures->front().says.find("2 loose pins"), std::string::npos) << cures->front().says;
    auto next = apply_edit(*made.project, cures->front().cure.edit);
    ASSERT_TRUE(next) << next.error().text();
    Made halves;
    halves.project = next->project;
    halves.evaluation = *evaluator.evaluate(halves.project);
    ASSERT_EQ(halves.says(), "");
    ASSERT_EQ(halves.project->parts.size(), 3u) << "a half, the other half, the pins";
    EXPECT_FALSE(too_big(halves));
    // The glue faces lie on the bed.
    Analyser analyser;
    auto analysis = analyser.analyse(halves.evaluation);
    ASSERT_TRUE(analysis);
    for (size_t i : {0, 1}) EXPECT_GT(analysis->parts[i]->inspection.bed_contact_area_mm2, 500) << i;
    // Together they measure as before: the box, and the volume but for what the holes are larger than the pins.
    Box3 box;
    double volume = 0;
    for (const PartResult& part : halves.evaluation.parts) {
        box.extend(part.box);
        volume += part.mass.volume_mm3;
    }
    EXPECT_TRUE(box.min().isApprox(made.part().box.min(), 1e-3));
    EXPECT_TRUE(box.max().isApprox(made.part().box.max(), 1e-3));
    EXPECT_NEAR(volume, made.volume(), made.volume() * 0.003);
    // All that the pins touch is as wanted.
    size_t of_pins = 0;
    for (const ContactResult& c : analysis->contacts) {
        if (c.a.find("pins") == std::string::npos && c.b.find("pins") == std::string::npos) continue;
        ++of_pins;
        EXPECT_EQ(c.state, FitState::Right) << c.a << " in " << c.b << " " << c.gap->min_mm;
    }
    EXPECT_EQ(of_pins, 2u);
    // One step back takes all of it back.
    EXPECT_EQ(cures->front().cure.edit.sentence, "Split P in two halves") << "one edit";
}

TEST(SplitForBed, NeedsACutThatHelps) {
    EXPECT_FALSE(best_bed_split(*make(json::array({block(600, 10, 10)})).part().mesh, {220, 220, 250}))
        << "three pieces at least";
    EXPECT_FALSE(best_bed_split({}, {220, 220, 250}));
    const auto long_bar = best_bed_split(*make(json::array({block(300, 30, 30)})).part().mesh, {220, 220, 250});
    ASSERT_TRUE(long_bar);
    EXPECT_EQ(long_bar->axis, 0);
    EXPECT_NEAR(long_bar->at_mm, 0, 5) << "of equal cuts the one in the middle";
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(best_bed_split(*make(json::array({block(300, 30, 30)})).part().mesh, {220, 220, 250}, stopped));
}
