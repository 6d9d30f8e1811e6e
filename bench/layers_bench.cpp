// Layers: what lies on nothing, lines, time, practice.
#include "app/strip/lines_picture.h"
#include "layers/motion_times.h"
#include "layers/practice_print.h"
#include "test_meshes.h"
#include <benchmark/benchmark.h>

using namespace lp;

namespace {

/// A ball on the bed, so high.
TriMesh ball(double high, int n) {
    return test::sphere(high / 2, n, {0, 0, high / 2});
}

void air_of_a_million(benchmark::State& state) {
    const TriMesh mesh = ball(100, 500); // 998,000 facets, 500 layers
    LayerOptions options;
    options.infill_percent = 100; // mid-air starts and what hangs alone: no infill is worked out
    for (auto _ : state) benchmark::DoNotOptimize(plan_layers(mesh, {}, options));
    state.counters["facets"] = double(mesh.triangles.size());
}
BENCHMARK(air_of_a_million)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void plan_of_a_million(benchmark::State& state) {
    const TriMesh mesh = ball(100, 500);
    for (auto _ : state) benchmark::DoNotOptimize(plan_layers(mesh, {}, {}));
}
BENCHMARK(plan_of_a_million)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void slices_of_a_million(benchmark::State& state) {
    const TriMesh mesh = ball(100, 500);
    for (auto _ : state) benchmark::DoNotOptimize(slice(mesh, LayerHeights{}, 0, 500));
}
BENCHMARK(slices_of_a_million)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void lines_of_200k(benchmark::State& state) {
    const TriMesh mesh = ball(100, 224); // 200,000 facets, 500 layers
    for (auto _ : state) benchmark::DoNotOptimize(motion_times(mesh, {}, {}));
}
BENCHMARK(lines_of_200k)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

void practice_of_60_mm(benchmark::State& state) {
    const TriMesh mesh = ball(60, 224);
    PracticeOptions options = practice_options({});
    options.lines.heights = {0.1, 0.2};
    for (auto _ : state) benchmark::DoNotOptimize(practice_print({mesh}, {}, options));
}
BENCHMARK(practice_of_60_mm)->Unit(benchmark::kMillisecond)->Iterations(1)->UseRealTime();

/// A range of layers over each other, at 1280 x 800.
void range_of_lines_drawn(benchmark::State& state) {
    LayerOptions options;
    options.heights = {0.12, 0.2}; // half of the ball is 300,000 lines
    auto lines = part_lines(ball(100, 224), {}, options);
    LinesShown shown(std::make_shared<const PartLines>(std::move(*lines)), QColor("#b9aa8f"));
    shown.size = {1280, 800};
    shown.middle = bounding_box(ball(100, 24)).center().head<2>();
    shown.scale = 7;
    shown.layer = shown.lines->layers.size() / 2;
    shown.below = size_t(state.range(0));
    for (auto _ : state) benchmark::DoNotOptimize(picture_of(shown));
    size_t pieces = 0; // straight pieces of lines, as they are planned
    for (size_t k = shown.layer - std::min(shown.layer, shown.below); k <= shown.layer; ++k)
        for (const PlannedLine& line : shown.lines->layers[k].lines) pieces += line.count - (line.closed ? 0 : 1);
    state.counters["lines"] = double(pieces);
    state.counters["strokes"] = double(strokes_of(shown).size());
}
BENCHMARK(range_of_lines_drawn)->Arg(0)->Arg(50)->Arg(250)->Arg(1000)->Unit(benchmark::kMillisecond)->UseRealTime();

} // namespace
