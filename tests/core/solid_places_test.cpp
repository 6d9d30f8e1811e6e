// Bosses that are printed solid: mass and lines against the closed formula of a cylinder, carried through moves and
// copies, told when nothing is meant.
#include "layers/part_lines.h"
#include "made_project.h"
#include "project/analysis.h"
#include "test_meshes.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

json pillar() {
    return step("cylinder", {{"diameter", 20}, {"height", 20}}, "boss");
}
json solid(const char* what = "boss", const char* around = "0 mm") {
    return step("print_solid", {{"what", what}, {"around", around}}, "filled");
}
LayerPlan plan_of(const Made& made, double infill) {
    LayerOptions options = layer_options(made.evaluation, *made.project->parts[0], Transform::Identity());
    options.infill_percent = infill;
    auto plan = plan_layers(*made.part().mesh, {}, options);
    EXPECT_TRUE(plan);
    return plan.value_or(LayerPlan{});
}

} // namespace

TEST(SolidPlaces, MassAndTimeChangeByWhatTheFormulaSays) {
    const Made bare = make(json::array({pillar()})), filled = make({pillar(), solid()});
    ASSERT_EQ(filled.says(), "");
    EXPECT_NEAR(filled.volume(), bare.volume(), 1e-9) << "the part itself is the same";
    // Three walls of 0.45 and skins of 0.8 below and above are solid anyway: a cylinder of 8.65 x 18.4 is left.
    const double inner = pi * 8.65 * 8.65 * 18.4;
    for (double percent : {5.0, 15.0, 40.0}) {
        const LayerPlan hollow = plan_of(bare, percent), whole = plan_of(filled, percent);
        const double more_g = inner * (1 - percent / 100) / 1000 * 1.24;
        EXPECT_NEAR(whole.mass_g - hollow.mass_g, more_g, 0.005 * more_g) << percent;
        EXPECT_NEAR(whole.mass_g, pi * 100 * 20 / 1000 * 1.24, 0.02) << percent;
        EXPECT_GT(whole.time_s, hollow.time_s);
    }
    EXPECT_NEAR(plan_of(filled, 5).time_s, plan_of(filled, 40).time_s, 1) << "nothing is left for the infill";
}

TEST(SolidPlaces, AreFilledLineByLine) {
    const json plate = step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 20}}, "plate");
    const json boss = step("cylinder", {{"diameter", 16}, {"height", 20}, {"at_x", 12}}, "boss");
    const Made made = make({plate, boss, solid()});
    ASSERT_EQ(made.says(), "");
    LayerOptions options = layer_options(made.evaluation, *made.project->parts[0], Transform::Identity());
    auto lines = part_lines(*made.part().mesh, {}, options);
    ASSERT_TRUE(lines);
    const LayerLines& layer = lines->layers[50];
    double solid_mm3 = 0;
    for (const PlannedLine& line : layer.lines)
        if (line.kind == LineKind::Solid) {
            solid_mm3 += layer.length_mm(line) * double(line.width_mm) * double(line.height_mm);
            for (uint32_t i = 0; i < line.count; ++i) // one line more all round: its rim would be ragged
                EXPECT_LT((layer.places[line.first + i] - Vec2(12, 0)).norm(), 8 + 0.45 + 0.01);
        }
    const double rim = pi * 8.45 * 8.45 * 0.2;
    EXPECT_NEAR(solid_mm3, rim, 0.06 * rim);
}

TEST(SolidPlaces, TheWallRoundAHoleToo) {
    const json plate = step("block", {{"size_x", 60}, {"size_y", 40}, {"size_z", 20}}, "plate");
    const json hole = step("cylinder", {{"diameter", 6}, {"height", 30}, {"at_z", -5}, {"does", "cut"}}, "hole");
    const Made bare = make({plate, hole}), round = make({plate, hole, solid("hole", "4 mm")});
    ASSERT_EQ(round.says(), "");
    // Between the hole's own walls (3 + 1.35) and 4 mm round it (7), in the layers between the skins.
    const double ring = pi * (49 - 4.35 * 4.35) * 18.4, more_g = ring * 0.85 / 1000 * 1.24;
    EXPECT_NEAR(plan_of(round, 15).mass_g - plan_of(bare, 15).mass_g, more_g, 0.01 * more_g);
}

TEST(SolidPlaces, GoWithTheirBody) {
    const double whole = plan_of(make({pillar(), solid()}), 15).mass_g,
                 hollow = plan_of(make(json::array({pillar()})), 15).mass_g;
    ASSERT_GT(whole, hollow + 1);
    const std::pair<const char*, json> moves[] = {
        {"move", step("move", {{"by_x", 40}, {"by_z", 5}})},
        {"turn", step("turn", {{"angle", "180 deg"}, {"axis", "x"}})},
        {"mirror", step("mirror", {{"in", "yz"}, {"distance", 15}, {"does", "instead"}})},
    };
    for (const auto& [name, move] : moves) {
        const Made made = make({pillar(), solid(), move});
        ASSERT_EQ(made.says(), "") << name;
        EXPECT_NEAR(plan_of(made, 15).mass_g, whole, 0.01) << name;
    }
    const Made twice = make({pillar(), solid(), step("repeat", {{"count", 2}, {"by_x", 30}})});
    ASSERT_EQ(twice.says(), "");
    EXPECT_NEAR(plan_of(twice, 15).mass_g, 2 * whole, 0.02);
    const Made larger = make({pillar(), solid(), step("scale", {{"by", 1.5}})});
    ASSERT_EQ(larger.says(), "");
    EXPECT_NEAR(plan_of(larger, 15).mass_g, pi * 225 * 30 / 1000 * 1.24, 0.05);
    const Made cut =
        make({pillar(), solid(), step("cylinder", {{"diameter", 5}, {"height", 30}, {"at_z", -5}, {"does", "cut"}})});
    EXPECT_NEAR(plan_of(cut, 15).mass_g, pi * (100 - 6.25) * 20 / 1000 * 1.24, 0.02)
        << "what is cut away is not filled";
}

TEST(SolidPlaces, SayWhatTheyDoNotKnow) {
    EXPECT_NE(make({pillar(), solid("nothing")}).says().find("no step called"), std::string::npos);
    EXPECT_NE(make({pillar(), step("print_solid", {{"what", ""}})}).says(), "");
    const Made fillet =
        make({pillar(), step("fillet", {{"edges", "of top of boss"}, {"radius", 1}}, "round"), solid("round")});
    EXPECT_NE(fillet.says().find("makes no solid of its own"), std::string::npos) << fillet.says();
}
