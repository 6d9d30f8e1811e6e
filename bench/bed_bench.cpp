// What goes on the beds: sixty parts arranged, poses compared.
#include "bed/arrange.h"
#include "bed/poses.h"
#include "bed/supports.h"
#include "test_meshes.h"
#include <benchmark/benchmark.h>
#include <numbers>
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

/// A wide roof on a stem, split fine: what hangs is 40 cm2.
void trees_of_200k(benchmark::State& state) {
    TriMesh mesh;
    const std::vector<Vec2> profile{{6, 0}, {6, 40}, {36, 40}, {36, 44}, {6, 44}};
    const uint32_t n = 720, parts = 30;
    const auto rings = uint32_t(profile.size()) * parts;
    for (size_t i = 0; i < profile.size(); ++i) // closed round the ring
        for (uint32_t s = 0; s < parts; ++s)
            for (uint32_t k = 0; k < n; ++k) {
                const Vec2 p = profile[i] + (profile[(i + 1) % profile.size()] - profile[i]) * (double(s) / parts);
                const double angle = 2 * std::numbers::pi * k / n;
                mesh.vertices.push_back({p.x() * std::cos(angle), p.x() * std::sin(angle), p.y()});
            }
    for (uint32_t r = 0; r < rings; ++r)
        for (uint32_t k = 0; k < n; ++k) {
            const uint32_t a = r * n + k, b = r * n + (k + 1) % n, c = (r + 1) % rings * n + k,
                           d = (r + 1) % rings * n + (k + 1) % n;
            mesh.triangles.push_back({a, b, d});
            mesh.triangles.push_back({a, d, c});
        }
    SupportOptions options;
    options.kind = SupportKind::Trees;
    for (auto _ : state) {
        const Supports made = make_supports(mesh, options);
        state.counters["trees"] = double(made.trees.size());
        state.counters["out_of_reach_mm2"] = made.out_of_reach_mm2;
    }
    state.counters["facets"] = double(mesh.triangles.size());
}
BENCHMARK(trees_of_200k)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

} // namespace
