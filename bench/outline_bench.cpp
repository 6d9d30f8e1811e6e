// Speeds of outlines: a drag step of a large drawing, the tray made anew, 200 letters sunk, a large DXF.
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "outline/outline_shape.h"
#include "outline/shapes.h"
#include "project/archive.h"
#include "project/edit.h"
#include "project/evaluate.h"
#include "project/project_json.h"
#include <benchmark/benchmark.h>
#include <nlohmann/json.hpp>

using namespace lp;

namespace {

/// 200 lines in 50 rectangles hung onto each other, with 300 constraints; one corner is pulled. Aim: under 30 ms.
void drag_step(benchmark::State& state) {
    Drawing d;
    std::vector<DrawnElements> all;
    for (int k = 0; k < 50; ++k)
        all.push_back(add_rectangle(d, {12.0 * (k % 10), 9.0 * (k / 10)}, {12.0 * (k % 10) + 8, 9.0 * (k / 10) + 5}));
    for (size_t k = 1; k < all.size(); ++k) { // each as wide and as high as the one before
        d.add(ConstraintKind::Equal, {all[k - 1][0], all[k][0]});
        d.add(ConstraintKind::Equal, {all[k - 1][1], all[k][1]});
    }
    d.add(ConstraintKind::Coincident, {d.element(all[0][0])->points[0], origin_id});
    d.add(ConstraintKind::Length, {all[0][1]}, "5 mm");
    auto values = *dimension_values(d, {});
    DrawingId corner = d.element(all[30][1])->points[1];
    Vec2 at = d.points.at(corner);
    Drag drag(d, values, corner, at);
    double pull = 0;
    for (auto _ : state) {
        pull = pull > 4 ? 0 : pull + 0.37;
        benchmark::DoNotOptimize(drag.move(at + Vec2(pull, 0.2 * pull)).points.size());
    }
    state.counters["elements"] = double(d.elements.size());
    state.counters["constraints"] = double(d.constraints.size());
}
BENCHMARK(drag_step)->Unit(benchmark::kMillisecond)->UseRealTime();

ProjectPtr tray_project() {
    auto opened = open_project(std::string(SOURCE_DIR) + "/data/demo/rain-gauge/project.json");
    auto project = std::make_shared<Project>(*opened->history.now());
    std::erase_if(project->parts, [](const PartPtr& p) { return p->name != "Spare-parts tray"; });
    return project;
}

/// The demo's tray after its length and wall changed. Aim: under 400 ms.
void tray_again(benchmark::State& state) {
    ProjectPtr project = tray_project();
    Evaluator evaluator;
    double length = 58;
    for (auto _ : state) {
        length += 0.01;
        auto edited = apply_edit(*project, SetParameter{"bucket_l", format_number(length, 4) + " mm", {}, {}});
        auto e = evaluator.evaluate(edited->project);
        benchmark::DoNotOptimize(e->parts[0].mass.volume_mm3);
    }
}
BENCHMARK(tray_again)->Unit(benchmark::kMillisecond)->Iterations(20)->UseRealTime();

/// 200 letters sunk 0.6 mm into a plate. Aim: under 3 s.
void letters_sunk(benchmark::State& state) {
    using nlohmann::json;
    json elements = json::array();
    for (int line = 0; line < 8; ++line)
        elements.push_back({{"kind", "text"},
                            {"points", json::array({{0, 12.0 * line}})},
                            {"text", "LOOSEPEGFITSANDMOVESEVEN1"},
                            {"size", "6 mm"}});
    double depth = 0.6;
    for (auto _ : state) {
        depth += 0.001;
        json steps = json::array(
            {{{"kind", "block"},
              {"name", "plate"},
              {"fields",
               {{"size_x", 190}, {"size_y", 110}, {"size_z", 4}, {"from", "corner"}, {"at_x", -5}, {"at_y", -5}}}},
             {{"kind", "outline"},
              {"fields", {{"on", "xy"}, {"distance", "4 mm"}, {"drawing", {{"elements", elements}}}}}},
             {{"kind", "extrude"}, {"fields", {{"height", depth}, {"side", "in"}, {"does", "cut"}}}}});
        json whole{
            {"format", "loose-peg"}, {"version", 1}, {"parts", json::array({{{"name", "P"}, {"steps", steps}}})}};
        auto project = std::make_shared<const Project>(*project_from_text(whole.dump()));
        Evaluator evaluator;
        auto e = evaluator.evaluate(project);
        if (!e || !e->parts[0].all_ok()) state.SkipWithError(e ? e->parts[0].steps.back().says.c_str() : "stopped");
    }
}
BENCHMARK(letters_sunk)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

/// 20,000 segments of a DXF read and made into regions. Aim: under 1 s.
void dxf_20000(benchmark::State& state) {
    std::string text = "0\nSECTION\n2\nENTITIES\n";
    for (int k = 0; k < 200; ++k)
        for (int i = 0; i < 100; ++i) {
            double a = 2 * std::numbers::pi * i / 100, b = 2 * std::numbers::pi * (i + 1) / 100, x = 10.0 * (k % 20),
                   y = 10.0 * (k / 20);
            text += "0\nLINE\n8\n0\n10\n" + std::to_string(x + 4 * std::cos(a)) + "\n20\n" +
                    std::to_string(y + 4 * std::sin(a)) + "\n11\n" + std::to_string(x + 4 * std::cos(b)) + "\n21\n" +
                    std::to_string(y + 4 * std::sin(b)) + "\n";
        }
    text += "0\nENDSEC\n0\nEOF\n";
    for (auto _ : state) {
        auto paths = read_dxf(text);
        FlatCurves curves = curves_of(*paths, {}, 1, 0);
        auto regions = arrange(curves.curves);
        if (!regions || regions->regions.size() != 200) state.SkipWithError("200 regions are expected");
    }
}
BENCHMARK(dxf_20000)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace
