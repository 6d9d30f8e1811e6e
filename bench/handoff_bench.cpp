// What leaves the program and comes in: the whole hand-off of the demo, exact files, large 3MF, a thing taken apart.
#include "app/main_window.h"
#include "app/view/view_widget.h"
#include "handoff/job_sheet.h"
#include "shape/exact_boolean.h"
#include "shape/exact_solids.h"
#include "test_meshes.h"
#include <QApplication>
#include <benchmark/benchmark.h>
#include <chrono>
#include <fstream>
#include <nlohmann/json.hpp>

using namespace lp;

namespace {

const std::filesystem::path demo = std::filesystem::path(SOURCE_DIR) / "data/demo/rain-gauge/project.json";

/// Tells of what takes how long within one run.
class Stopwatch {
  public:
    explicit Stopwatch(benchmark::State& state) : state_(state) {}
    void says(const char* name) {
        const auto now = std::chrono::steady_clock::now();
        state_.counters[std::string(name) + "_s"] = std::chrono::duration<double>(now - last_).count();
        last_ = now;
    }

  private:
    benchmark::State& state_;
    std::chrono::steady_clock::time_point last_ = std::chrono::steady_clock::now();
};

/// 3MF, STL, STEP and the sheet of the demo, from its file to the folder: made, analysed, written, read back.
void whole_hand_off(benchmark::State& state) {
    test::Folder folder;
    for (auto _ : state) {
        Stopwatch since(state);
        auto opened = open_project(demo);
        Evaluator evaluator;
        auto evaluation = evaluator.evaluate(opened->history.now());
        if (!evaluation) return state.SkipWithError("the demo does not evaluate");
        since.says("made");
        const ExportPaper sheet{"sheet.pdf", [&](const Task& task) -> Expected<std::string> {
                                    auto analysis = Analyser().analyse(*evaluation, task);
                                    if (!analysis) return pass_on(analysis);
                                    auto made = job_sheet(*evaluation, *analysis, {Paper::A4, "2026-11-30"}, task);
                                    if (!made) return pass_on(made);
                                    return std::move(made->pdf);
                                }};
        auto written = export_project(*evaluation, {folder.path, {"3mf", "stl", "step"}, 0.01, false, {sheet}});
        if (!written) return state.SkipWithError("the demo is not written");
        for (const ReadBack& back : *written)
            if (!back.same) return state.SkipWithError("what is read back differs");
        since.says("written");
    }
}
BENCHMARK(whole_hand_off)->Unit(benchmark::kMillisecond)->Iterations(2)->UseRealTime();

/// So many drilled blocks of seven faces each, as the parts of a bought board are: 715 have 5,000 faces.
void step_of_blocks(benchmark::State& state) {
    std::vector<FileObject> blocks;
    for (int i = 0; i < state.range(0); ++i) {
        Transform at = Transform::Identity();
        at.translate(Vec3(6 * (i % 27), 6 * (i / 27), 0));
        auto block = make_block({5, 5, 3}, at, {});
        at.translate(Vec3(2.5, 2.5, -1));
        auto drill = make_cylinder(1, 5, at, {});
        FileObject object{.name = "Block " + std::to_string(i + 1)};
        object.exact = combine_exact(Operation::Cut, *block, {*drill}).value();
        blocks.push_back(std::move(object));
    }
    auto bytes = find_format("step")->write(blocks, "board", {});
    if (!bytes) return state.SkipWithError("not written");
    state.counters["MB"] = double(bytes->size()) / 1e6;
    for (auto _ : state) {
        auto read = read_objects("board.step", *bytes);
        if (!read || read->objects.size() != blocks.size()) return state.SkipWithError("not read");
    }
}
BENCHMARK(step_of_blocks)->Unit(benchmark::kMillisecond)->Arg(90)->Arg(360)->Arg(715)->Iterations(2)->UseRealTime();

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
