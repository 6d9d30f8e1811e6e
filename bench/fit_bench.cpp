// Speeds of fits: the ledger of many bodies, a movement, a halo.
#include "fit/movement.h"
#include "formats/flat_file.h"
#include "formats/formats.h"
#include "mesh/grow.h"
#include "project/contact_ledger.h"
#include "project/edit.h"
#include <benchmark/benchmark.h>

using namespace lp;

namespace {

/// A ball of about `facets` facets with a slight bump, radius 10 mm.
TriMesh ball(int facets, const Vec3& centre) {
    uint32_t n = uint32_t(std::max(4.0, std::sqrt(facets / 4.0)));
    TriMesh mesh;
    mesh.vertices = {centre + Vec3(0, 0, 10), centre - Vec3(0, 0, 10)};
    for (uint32_t i = 1; i < n; ++i)
        for (uint32_t j = 0; j < 2 * n; ++j) {
            double t = std::numbers::pi * i / n, p = std::numbers::pi * j / n;
            double r = 10 * (1 + 0.01 * std::sin(5 * t) * std::sin(4 * p));
            mesh.vertices.push_back(centre +
                                    r * Vec3(std::sin(t) * std::cos(p), std::sin(t) * std::sin(p), std::cos(t)));
        }
    auto at = [&](uint32_t i, uint32_t j) { return 2 + (i - 1) * 2 * n + j % (2 * n); };
    for (uint32_t j = 0; j < 2 * n; ++j) {
        mesh.triangles.push_back({0, at(1, j), at(1, j + 1)});
        mesh.triangles.push_back({1, at(n - 1, j + 1), at(n - 1, j)});
        for (uint32_t i = 1; i + 1 < n; ++i) {
            mesh.triangles.push_back({at(i, j), at(i + 1, j), at(i + 1, j + 1)});
            mesh.triangles.push_back({at(i, j), at(i + 1, j + 1), at(i, j + 1)});
        }
    }
    return mesh;
}

/// 30 balls of 20,000 facets in a row, each 0.3 mm from the next.
Evaluation thirty(double last_shift) {
    Evaluation evaluation;
    auto project = std::make_shared<Project>();
    static std::vector<Body> bodies;
    if (bodies.empty())
        for (int i = 0; i < 30; ++i) bodies.push_back(Body::from_mesh(ball(20000, Vec3(20.6 * i, 0, 0))));
    for (int i = 0; i < 30; ++i) {
        auto part = std::make_shared<Part>();
        part->id = PartId(uint64_t(i + 1));
        part->name = "ball " + std::to_string(i);
        project->parts.push_back(part);
        PartResult result;
        result.part = part->id;
        result.name = part->name;
        result.bodies = {{StepId(1), "", bodies[size_t(i)]}};
        result.box = bodies[size_t(i)].box();
        result.mesh = std::shared_ptr<const TriMesh>(&bodies[size_t(i)].mesh(), [](const TriMesh*) {});
        if (i == 15) result.place.translation().z() = last_shift;
        evaluation.parts.push_back(result);
    }
    evaluation.project = project;
    for (const Body& body : bodies) body.tessellation();
    return evaluation;
}

void ledger_of_30_bodies(benchmark::State& state) {
    Evaluation evaluation = thirty(0);
    for (auto _ : state) {
        ContactLedger ledger;
        auto contacts = ledger.contacts(evaluation);
        if (contacts.size() != 29) state.SkipWithError("contacts are missing");
    }
}
BENCHMARK(ledger_of_30_bodies)->Iterations(4)->UseRealTime()->Unit(benchmark::kMillisecond);

void ledger_after_one_body_moved(benchmark::State& state) {
    ContactLedger ledger;
    ledger.contacts(thirty(0));
    double shift = 0;
    for (auto _ : state) {
        state.PauseTiming();
        Evaluation moved = thirty(shift += 0.01);
        state.ResumeTiming();
        if (ledger.contacts(moved).size() != 29) state.SkipWithError("contacts are missing");
    }
}
BENCHMARK(ledger_after_one_body_moved)->Iterations(10)->UseRealTime()->Unit(benchmark::kMillisecond);

void movement_of_180_positions(benchmark::State& state) {
    // A bumped ball turning in a bumped shell, 0.6 mm between them.
    MeasuredBody moving(ball(50000, Vec3::Zero()));
    TriMesh shell = ball(50000, Vec3::Zero());
    for (Vec3& v : shell.vertices) v *= 1.08;
    auto still = std::make_shared<const MeasuredBody>(std::move(shell));
    MovementPath path;
    path.to = 180;
    path.step = 1;
    for (auto _ : state) {
        auto result = check_movement(moving, {still}, path);
        if (!result || result->curve.size() != 181) state.SkipWithError("positions are missing");
    }
}
BENCHMARK(movement_of_180_positions)->Iterations(2)->UseRealTime()->Unit(benchmark::kMillisecond);

void halo_of_50000_facets(benchmark::State& state) {
    TriMesh body = ball(50000, Vec3::Zero());
    double deviation = 0;
    for (auto _ : state) {
        auto grown = grow_mesh(body, 0.3);
        if (!grown) state.SkipWithError("no halo");
        deviation = grown->largest_deviation_mm;
    }
    state.counters["deviation_um"] = deviation * 1000;
}
BENCHMARK(halo_of_50000_facets)->Iterations(3)->UseRealTime()->Unit(benchmark::kMillisecond);

} // namespace
