// What goes on the beds: sixty parts arranged, poses compared.
#include "bed/arrange.h"
#include "bed/poses.h"
#include "test_meshes.h"
#include <benchmark/benchmark.h>
#include <random>

using namespace lp;

namespace {

/// Twenty shapes three times each, up to 66 mm across: plates, rings, balls and slanting bars of 200 to 20,000 facets.
void sixty_arranged(benchmark::State& state) {
    std::mt19937 random(11);
    std::uniform_real_distribution<double> side(12, 66);
    std::vector<TriMesh> meshes;
    for (int i = 0; i < 20; ++i)
        meshes.push_back(i % 4 == 0   ? test::torus(side(random) / 2, 4, 200, 50)
                         : i % 4 == 1 ? test::sphere(side(random) / 2, 40)
                         : i % 4 == 2
                             ? test::turned(box_mesh({0, 0, 0}, {side(random), 9, 5}), side(random), Vec3::UnitZ())
                             : box_mesh({0, 0, 0}, {side(random), side(random), 4}));
    std::vector<ArrangeItem> items;
    for (int i = 0; i < 60; ++i) items.push_back({.posed = &meshes[size_t(i) % meshes.size()]});
    for (auto _ : state) {
        auto found = arrange(items, {});
        state.counters["beds"] = found ? double(found->beds) : 0;
    }
}
BENCHMARK(sixty_arranged)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void poses_of_200k(benchmark::State& state) {
    const TriMesh mesh = test::torus(20, 6, 1000, 100);
    for (auto _ : state) benchmark::DoNotOptimize(best_poses(mesh));
    state.counters["facets"] = double(mesh.triangles.size());
}
BENCHMARK(poses_of_200k)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

} // namespace
