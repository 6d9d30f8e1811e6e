// Layers of other heights in bands, skirts, what a bed takes, energy: against closed formulas.
#include "layers/bed_lines.h"
#include "layers/skirt.h"
#include "made_project.h"
#include "project/bed_print.h"
#include "project/layer_heights.h"
#include "project/pauses.h"
#include "project/references.h"
#include <numbers>

using namespace lp;
using namespace lp::test;
using std::numbers::pi;

namespace {

double laid_mm3(const PartLines& lines) {
    double volume = 0;
    for (const LayerLines& layer : lines.layers) volume += layer.volume_mm3();
    return volume;
}

Made with_edit(const Made& m, const Edit& edit) {
    auto next = apply_edit(*m.project, edit);
    EXPECT_TRUE(next) << next.error().text();
    Made made;
    made.project = next ? next->project : m.project;
    made.evaluation = *Evaluator().evaluate(made.project);
    return made;
}

Analysis analysed(const Made& m) {
    Analyser analyser;
    auto analysis = analyser.analyse(m.evaluation);
    EXPECT_TRUE(analysis);
    return *analysis;
}

} // namespace

TEST(LayerHeights, LieOneOnTheOtherWhateverTheBands) {
    for (const LayerHeights& heights :
         {LayerHeights{0.2, 0.3}, LayerHeights{0.2, 0.2, {{1, 2, 0.1}}}, LayerHeights{0.2, 0.25, {{0, 1, 0.12}}},
          LayerHeights{0.3, 0.2, {{0.5, 1.1, 0.07}, {1.1, 2, 0.15}, {4, 4.01, 0.1}}}}) {
        double z = 0;
        for (size_t k = 0; k < 60; ++k) {
            EXPECT_NEAR(heights.bottom(k), z, 1e-9) << k;
            EXPECT_EQ(heights.layer_at(z + heights.thickness(k) / 2), k);
            z += heights.thickness(k);
            EXPECT_EQ(heights.count(z), k + 1);
            EXPECT_EQ(heights.count(z + heights.thickness(k + 1) / 2), k + 2);
        }
        EXPECT_EQ(heights.count(0), 0u);
    }
    // Twenty layers of 0.05 in place of five of 0.2.
    const LayerHeights fine{0.2, 0.2, {{2, 3, 0.05}}};
    EXPECT_EQ(fine.count(10), 50u - 5 + 20);
    EXPECT_EQ(fine.thinnest_mm(), 0.05);
    EXPECT_EQ(LayerHeights({0.2, 0.2, {{2, 3, 0.2}}}).count(10), 50u) << "a band of the same height is none";
}

TEST(LayerHeights, BandsThatMakeNoSenseAreRefused) {
    EXPECT_FALSE(check_bands({{1, 2, 0.1}, {2, 3, 0.2}}));
    for (const std::vector<HeightBand>& bands : {std::vector<HeightBand>{{2, 1, 0.1}},
                                                 {{1, 2, 0}},
                                                 {{1, 2, 9}},
                                                 {{-1, 2, 0.1}},
                                                 {{1, 3, 0.1}, {2, 4, 0.1}},
                                                 {{0, 1e9, 0.1}},
                                                 {{std::nan(""), 2, 0.1}}})
        EXPECT_TRUE(check_bands(bands));
    auto typed = band_typed("10 to 14 by 0.12");
    ASSERT_TRUE(typed);
    EXPECT_EQ(*typed, (TypedBand{"10", "14", "0.12"}));
    EXPECT_EQ(band_words(*typed), "layers of 0.12 mm from 10 mm to 14 mm");
    EXPECT_EQ(*band_typed("from foot + 1 mm to 14 mm by h / 2"), (TypedBand{"foot + 1 mm", "14 mm", "h / 2"}));
    for (const char* bad : {"", "10", "10 to 14", "10 by 0.1", "to by"}) EXPECT_FALSE(band_typed(bad)) << bad;
}

TEST(LayerHeights, OfAPartAreKeptFollowTheirNumbersAndAreLaid) {
    // A cone: its volume by thin layers is nearer to the formula than by thick ones.
    const Made cone =
        make_parts({{"P", json::array({step("cone", {{"diameter", 20}, {"height", 10}})})}}, {{"from", "4 mm"}});
    ASSERT_EQ(cone.says(), "");
    const PartId id = cone.part().part;
    const Made fine = with_edit(cone, SetBands{id, {{"from + 2 mm", "8 mm", "0.1"}, {"0", "from", "0.05 mm"}}});
    EXPECT_EQ(fine.project->parts[0]->bands[0].from, "0") << "from below upward";
    const Analysis before = analysed(cone), after = analysed(fine);
    ASSERT_TRUE(before.parts[0]->plan && after.parts[0]->plan);
    EXPECT_EQ(before.parts[0]->plan->layers.size(), 50u);
    // 0.2 first, then 76 of 0.05 up to 4, ten of 0.2 to 6, twenty of 0.1 to 8, ten of 0.2.
    const auto& layers = after.parts[0]->plan->layers;
    ASSERT_EQ(layers.size(), 1u + 76 + 10 + 20 + 10);
    EXPECT_NEAR(layers.back().z_mm + layers.back().thickness_mm, 10, 1e-9);
    double volume = 0;
    for (const Layer& layer : layers) {
        volume += layer.area_mm2 * layer.thickness_mm;
        const double r = 10 * (1 - (layer.z_mm + layer.thickness_mm / 2) / 10);
        EXPECT_NEAR(layer.area_mm2, pi * r * r, 0.3 + r * 0.05) << layer.z_mm;
    }
    EXPECT_NEAR(volume, pi * 100 * 10 / 3, 4);
    auto lines = part_lines(*after.parts[0]->posed, {}, layer_options(fine.evaluation, *fine.project->parts[0], {}));
    ASSERT_TRUE(lines);
    EXPECT_EQ(lines->layers.size(), layers.size());
    EXPECT_NEAR(lines->layers[5].lines[0].height_mm, 0.05, 1e-6);
    // The number moves the band; it is saved, opened and renamed with it.
    const Made moved = with_edit(fine, SetParameter{"from", "2 mm", {}, {}});
    EXPECT_EQ(analysed(moved).parts[0]->plan->layers.size(), 1u + 36 + 10 + 40 + 10);
    auto again = project_from_text(project_to_json(*fine.project).dump());
    ASSERT_TRUE(again);
    EXPECT_EQ(again->parts[0]->bands, fine.project->parts[0]->bands);
    // A number that leads one into the other: told, not laid otherwise than was asked for.
    const Made wrong = with_edit(fine, SetParameter{"from", "9 mm", {}, {}});
    EXPECT_NE(analysed(wrong).parts[0]->plan_problem, "");
    EXPECT_FALSE(apply_edit(*fine.project, SetBands{id, {{"1", "3", "0.1"}, {"2", "4", "0.1"}}})) << "in each other";
    EXPECT_FALSE(apply_edit(*fine.project, SetBands{id, {{"1", "nothing", "0.1"}}}));
    EXPECT_FALSE(apply_edit(*fine.project, SetBands{id, std::vector<TypedBand>(51, {"1", "2", "0.1"})}));
    EXPECT_FALSE(project_from_text(R"({"format":"loose-peg","version":1,"parts":[{"name":"P","bands":7}]})"));
}

TEST(LayerHeights, MoveAStopByTheLayersTheyAdd) {
    const Made tower = make(json::array({block(20, 20, 12)}));
    const PartId id = tower.part().part;
    const Made stops = with_edit(tower, SetStops{id, {{"8 mm", "white"}}});
    auto after = [](const Made& m) { return pauses_of(m.evaluation, m.part().part).at(0).pause; };
    EXPECT_EQ(after(stops).after, 40u);
    const Made fine = with_edit(stops, SetBands{id, {{"2", "4", "0.1"}}});
    EXPECT_EQ(after(fine).after, 50u) << "ten layers of 0.2 are twenty of 0.1";
    EXPECT_NEAR(after(fine).at_mm, 8, 1e-9);
}

TEST(Skirts, AreAsLongAsTheirFormula) {
    const Region square{{ClipperLib::IntPoint(0, 0), ClipperLib::IntPoint(2'000'000, 0),
                         ClipperLib::IntPoint(2'000'000, 2'000'000), ClipperLib::IntPoint(0, 2'000'000)}};
    auto length = [](const std::vector<std::vector<Vec2>>& loops) {
        double sum = 0;
        for (const auto& loop : loops)
            for (size_t i = 0; i < loop.size(); ++i) sum += (loop[i] - loop[(i + 1) % loop.size()]).norm();
        return sum;
    };
    // A square of 20 and round corners: 80 + 2 pi (4 + half a line), the next loop a line further.
    EXPECT_NEAR(length(skirt_of(square, 1, 0.45)), 80 + 2 * pi * 4.225, 0.3);
    EXPECT_NEAR(length(skirt_of(square, 2, 0.45)), 160 + 2 * pi * (4.225 + 4.675), 0.6);
    EXPECT_TRUE(skirt_of(square, 0, 0.45).empty());
    EXPECT_TRUE(skirt_of({}, 3, 0.45).empty());
    // In the lines it is laid first; the estimate takes its plastic.
    const Made plain = make(json::array({block(20, 20, 4)})),
               skirt = with_edit(plain, SetNumber{"printer skirt_loops", "2"});
    const double mm3 = (160 + 2 * pi * (4.225 + 4.675)) * 0.45 * 0.2;
    const Analysis without = analysed(plain), with = analysed(skirt);
    EXPECT_NEAR((with.filament_mm - without.filament_mm) * pi * 1.75 * 1.75 / 4, mm3, 0.1);
    auto lines = [](const Made& m, const Analysis& a) {
        return part_lines(*a.parts[0]->posed, {}, layer_options(m.evaluation, *m.project->parts[0], a.parts[0]->pose))
            .value();
    };
    const PartLines laid = lines(skirt, with);
    EXPECT_NEAR(laid_mm3(laid) - laid_mm3(lines(plain, without)), mm3, 0.1);
    EXPECT_EQ(laid.layers[0].lines[0].kind, LineKind::Support);
    EXPECT_TRUE(laid.layers[0].lines[1].closed);
    EXPECT_FALSE(apply_edit(*plain.project, SetNumber{"printer skirt_loops", "21"}));
}

TEST(BedLines, AreThoseOfEveryCopy) {
    const Made two =
        with_edit(make_parts({{"Low", json::array({block(20, 10, 4)})}, {"Tall", json::array({block(10, 10, 9)})}}),
                  SetNumber{"printer skirt_loops", "1"});
    const Made made = with_edit(two, SetQuantity{two.part().part, 3});
    const Analysis analysis = analysed(made);
    auto bed = lines_of_bed(made.evaluation, analysis, 0);
    ASSERT_TRUE(bed) << bed.error().text();
    EXPECT_EQ(bed->layers.size(), 45u);
    auto alone = [&](size_t i) {
        LayerOptions options = layer_options(made.evaluation, *made.project->parts[i], analysis.parts[i]->pose);
        options.skirt_loops = 0;
        return laid_mm3(part_lines(*analysis.parts[i]->posed, {}, options).value());
    };
    double skirt = 0;
    const LayerLines& first = bed->layers[0];
    Box3 inner, outer;
    for (const PlannedLine& line : first.lines) {
        if (line.kind == LineKind::Support) skirt += first.length_mm(line) * 0.45 * 0.2;
        Box3& box = line.kind == LineKind::Support ? outer : inner;
        for (uint32_t i = 0; i < line.count; ++i)
            box.extend(Vec3(first.places[line.first + i].x(), first.places[line.first + i].y(), 0));
    }
    EXPECT_NEAR(laid_mm3(*bed), 3 * alone(0) + alone(1) + skirt, 0.01);
    EXPECT_GT(skirt, 5);
    EXPECT_TRUE(outer.contains(inner)) << "round all of it";
    EXPECT_GT(inner.min().x(), 0) << "in the frame of the bed";
    // Above the low ones only the tall one is laid.
    EXPECT_LT(bed->layers[30].lines.size(), bed->layers[10].lines.size());
    EXPECT_FALSE(lines_of_bed(made.evaluation, analysis, 7)) << "no such bed";
    Task stopped;
    stopped.cancel.cancel();
    EXPECT_FALSE(lines_of_bed(made.evaluation, analysis, 0, stopped));
}

TEST(BedLines, OfOtherHeightsLieBetween) {
    auto lines_of = [](LayerHeights heights, double tall) {
        PartLines lines;
        lines.heights = heights;
        lines.layers.resize(heights.count(tall));
        for (LayerLines& layer : lines.layers) {
            layer.places = {Vec2(0, 0), Vec2(10, 0)};
            PlannedLine line;
            line.count = 2;
            line.width_mm = 0.4f;
            line.height_mm = 0.2f;
            layer.lines = {line};
        }
        lines.loose.resize(lines.layers.size());
        lines.loose[1] = {{0, 10, true, {Vec2(0, 0), Vec2(10, 0)}}};
        return std::make_shared<const PartLines>(std::move(lines));
    };
    Transform turned = Transform::Identity();
    turned.translate(Vec3(50, 60, 0));
    turned.rotate(Eigen::AngleAxisd(pi / 2, Vec3::UnitZ()));
    const PartLines bed = bed_lines({{lines_of({0.2, 0.2}, 1), {}}, {lines_of({0.3, 0.2}, 0.8), turned}});
    // Tops 0.2 (both), 0.4, 0.5, 0.6, 0.8 (both), 1.0.
    ASSERT_EQ(bed.tops.size(), 6u);
    const double tops[] = {0.2, 0.4, 0.5, 0.6, 0.8, 1.0};
    for (size_t k = 0; k < 6; ++k) EXPECT_NEAR(bed.tops[k], tops[k], 1e-9);
    ASSERT_EQ(bed.layers[0].lines.size(), 2u);
    EXPECT_EQ(bed.layers[0].lines[1].first, 2u);
    EXPECT_TRUE(bed.layers[0].places[3].isApprox(Vec2(50, 70), 1e-9)) << "turned, then moved";
    EXPECT_EQ(bed.loose[1].size(), 1u);
    EXPECT_TRUE(bed.loose[2].front().path[1].isApprox(Vec2(50, 70), 1e-9));
    EXPECT_TRUE(bed_lines({}).layers.empty());
}

TEST(Energy, IsPowerTimesTime) {
    const Made made = with_edit(make(json::array({block(20, 20, 10)})), SetNumber{"printer power_w", "120"});
    const Analysis analysis = analysed(made);
    EXPECT_NEAR(analysis.energy_kwh, 0.120 * analysis.time_s / 3600, 1e-9);
    EXPECT_NEAR(analysis.energy_price, analysis.energy_kwh * 0.3, 1e-9);
    EXPECT_FALSE(apply_edit(*made.project, SetNumber{"printer power_w", "-1"}));
    auto again = project_from_text(project_to_json(*made.project).dump());
    EXPECT_EQ(again->printer.power_w, 120);
}
