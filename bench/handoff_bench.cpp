// What leaves the program and comes in: the whole hand-off of the demo, exact files, large 3MF, a thing taken apart.
#include "app/main_window.h"
#include "app/view/view_widget.h"
#include "handoff/job_sheet.h"
#include "outline/arrangement.h"
#include "steps/solids/profile_shape.h"
#include "test_meshes.h"
#include <QApplication>
#include <benchmark/benchmark.h>
#include <nlohmann/json.hpp>

using namespace lp;

namespace {

const std::filesystem::path demo = std::filesystem::path(SOURCE_DIR) / "data/demo/rain-gauge/project.json";

/// 3MF, STL, STEP and the sheet of the demo, from its file to the folder: evaluated, analysed, written, read back.
void whole_hand_off(benchmark::State& state) {
    test::Folder folder;
    for (auto _ : state) {
        auto opened = open_project(demo);
        Evaluator evaluator;
        auto evaluation = evaluator.evaluate(opened->history.now());
        Analyser analyser;
        if (!evaluation) return state.SkipWithError("the demo does not evaluate");
        auto analysis = analyser.analyse(*evaluation);
        if (!analysis) return state.SkipWithError("the demo is not made");
        auto written = export_project(*evaluation, {folder.path, {"3mf", "stl", "step"}});
        auto sheet = job_sheet(*evaluation, *analysis, {Paper::A4, "2026-11-30"});
        if (!written || !sheet) return state.SkipWithError("the demo is not written");
        for (const ReadBack& back : *written)
            if (!back.same) return state.SkipWithError("what is read back differs");
        benchmark::DoNotOptimize(sheet->pdf.size());
    }
}
BENCHMARK(whole_hand_off)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

/// A wheel of 4,998 flanks between two flat faces.
void step_of_5000_faces(benchmark::State& state) {
    std::vector<Curve> rim;
    constexpr int corners = 4998;
    auto at = [](int i) {
        const double a = 2 * std::numbers::pi * i / corners, r = i % 2 ? 198 : 200;
        return Vec2(r * std::cos(a), r * std::sin(a));
    };
    for (int i = 0; i < corners; ++i) rim.push_back(Curve::line(at(i), at((i + 1) % corners)));
    auto regions = region_of(rim);
    auto wheel = regions ? raised_body(*regions, 0, 10, 0, Transform::Identity(), {}) : pass_on(regions);
    if (!wheel || wheel->tessellation().faces.size() != 5000) return state.SkipWithError("no wheel");
    FileObject object;
    object.name = "wheel";
    object.exact = *wheel;
    auto bytes = find_format("step")->write({object}, "wheel", {});
    if (!bytes) return state.SkipWithError("not written");
    for (auto _ : state) {
        auto read = read_objects("wheel.step", *bytes);
        if (!read || read->objects.size() != 1) return state.SkipWithError("not read");
        benchmark::DoNotOptimize(read->objects[0].triangles().triangles.size());
    }
}
BENCHMARK(step_of_5000_faces)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void threemf_of_two_million_written(benchmark::State& state) {
    const std::vector<FileObject> objects{{.name = "sphere", .mesh = test::sphere(40, 711)}};
    size_t size = 0;
    for (auto _ : state) size = find_format("3mf")->write(objects, "sphere", {})->size();
    state.counters["triangles"] = double(objects[0].mesh.triangles.size());
    state.counters["MB"] = double(size) / 1e6;
}
BENCHMARK(threemf_of_two_million_written)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

void threemf_of_two_million_read(benchmark::State& state) {
    auto bytes = find_format("3mf")->write({{.name = "sphere", .mesh = test::sphere(40, 711)}}, "sphere", {});
    for (auto _ : state) benchmark::DoNotOptimize(read_objects("sphere.3mf", *bytes)->objects.size());
}
BENCHMARK(threemf_of_two_million_read)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

/// Forty parts on each other, pulled apart and put together by the slider: a frame.
void forty_parts_taken_apart(benchmark::State& state) {
    nlohmann::json parts = nlohmann::json::array();
    for (int i = 0; i < 40; ++i) {
        nlohmann::json steps = nlohmann::json::array();
        steps.push_back({{"kind", "cylinder"}, {"fields", {{"diameter", 60}, {"height", 4}}}});
        steps.push_back({{"kind", "cylinder"}, {"fields", {{"diameter", 20}, {"height", 4}, {"does", "cut"}}}});
        parts.push_back(
            {{"name", "Ring " + std::to_string(i + 1)},
             {"steps", steps},
             {"place", {{"at", {std::to_string(70 * (i % 4)) + " mm", "0 mm", std::to_string(4 * (i / 4)) + " mm"}}}}});
    }
    test::Folder folder;
    const auto file = folder.path / "rings.json";
    std::ofstream(file) << nlohmann::json(
        {{"format", "loose-peg"}, {"version", 1}, {"name", "Rings"}, {"parts", parts}});
    Session session;
    MainWindow window(&session);
    if (!session.document().open(QString::fromStdString(file.string()))) return state.SkipWithError("not opened");
    window.resize(1280, 800);
    window.show();
    session.wait_until_done();
    session.taken_apart().work_out();
    session.wait_until_done();
    while (session.taken_apart().moves().empty()) QApplication::processEvents(QEventLoop::WaitForMoreEvents, 50);
    const auto moves = double(session.taken_apart().moves().size());
    double together = 0;
    for (auto _ : state) {
        together = together >= moves ? 0 : together + 0.37;
        session.taken_apart().show(together);
        window.view()->picture();
        window.view()->repaint();
    }
    state.counters["moves"] = moves;
}
BENCHMARK(forty_parts_taken_apart)->Unit(benchmark::kMillisecond)->Iterations(60)->UseRealTime();

} // namespace
