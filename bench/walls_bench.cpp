// Wall thickness of a million facets: a torus touches its balls all along, the dearest case there is.
#include "check/walls.h"
#include "test_meshes.h"
#include <benchmark/benchmark.h>

using namespace lp;

namespace {

void walls(benchmark::State& state, const TriMesh& mesh) {
    for (auto _ : state) {
        auto walls = measure_walls(mesh);
        state.counters["least_mm"] = walls && walls->least_mm ? *walls->least_mm : 0;
    }
    state.counters["facets"] = double(mesh.triangles.size());
}

void walls_of_a_million(benchmark::State& state) {
    walls(state, test::torus(20, 2.5, 1430, 350));
}
BENCHMARK(walls_of_a_million)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

void walls_of_a_ball(benchmark::State& state) {
    walls(state, test::sphere(2.5, 120));
}
BENCHMARK(walls_of_a_ball)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

void walls_of_a_pipe(benchmark::State& state) {
    walls(state, test::torus(20, 2.5, 400, 100));
}
BENCHMARK(walls_of_a_pipe)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

} // namespace
