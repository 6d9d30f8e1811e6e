// The speeds the product promises, on the demo and on a million facets. Run under tools/xvfb.
#include "app/main_window.h"
#include "app/scene_builder.h"
#include "app/sheet/shelf.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include "check/inspection.h"
#include "formats/flat_file.h"
#include "formats/stl.h"
#include "mesh/mend.h"
#include "shape/kernel_cache.h"
#include "test_meshes.h"
#include <QApplication>
#include <benchmark/benchmark.h>
#include <nlohmann/json.hpp>
#include <thread>

using namespace lp;

namespace {

const QString demo = QString(SOURCE_DIR) + "/data/demo/rain-gauge/project.json";

/// A number of the demo is changed; done when the new geometry is in the picture. Goes back and forth over many values,
/// so that nothing comes from the cache.
void edit_to_picture(benchmark::State& state) {
    Session session;
    MainWindow window(&session);
    session.document().open(demo);
    window.show();
    session.wait_until_done();
    double value = 6;
    for (auto _ : state) {
        value += 0.003;
        bool drawn = false;
        auto connection = QObject::connect(&session.results(), &Results::evaluated,
                                           [&] { drawn = session.results().evaluation_is_current(); });
        session.document().edit(SetParameter{"peg_d", format_number(value, 4) + " mm", {}, {}});
        while (!drawn) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
        window.view()->picture();
        window.view()->repaint();
        state.PauseTiming();
        QObject::disconnect(connection);
        session.wait_until_done();
        state.ResumeTiming();
    }
}
BENCHMARK(edit_to_picture)->Unit(benchmark::kMillisecond)->Iterations(30)->UseRealTime();

/// The same edit without a window: the geometry's share.
void edit_to_bodies(benchmark::State& state) {
    auto opened = open_project(demo.toStdString());
    Evaluator evaluator;
    auto project = opened->history.now();
    if (!evaluator.evaluate(project)) return state.SkipWithError("the demo does not evaluate");
    double value = 6;
    for (auto _ : state) {
        value += 0.003;
        auto edited = apply_edit(*project, SetParameter{"peg_d", format_number(value, 4) + " mm", {}, {}});
        benchmark::DoNotOptimize(evaluator.evaluate(edited->project));
    }
}
BENCHMARK(edit_to_bodies)->Unit(benchmark::kMillisecond)->Iterations(30)->UseRealTime();

/// Orbit of the demo: one frame drawn anew.
void orbit_frame(benchmark::State& state) {
    Session session;
    MainWindow window(&session);
    session.document().open(demo);
    window.show();
    session.wait_until_done();
    for (auto _ : state) {
        window.view()->camera().orbit(3, 0);
        window.view()->refresh();
        window.view()->picture();
        window.view()->repaint();
    }
}
BENCHMARK(orbit_frame)->Unit(benchmark::kMillisecond)->Iterations(30)->UseRealTime();

/// A part of one or two million facets while the view turns, and while a section goes through it.
void orbit_of_many(benchmark::State& state) {
    auto shape = std::make_shared<const Tessellation>(segment_mesh(test::sphere(40, int(state.range(0)))));
    state.counters["facets"] = double(shape->mesh.triangles.size());
    SceneBody body;
    body.shape = shape;
    body.colour = QColor(filament_colours().front().second);
    Scene scene;
    scene.bodies = {body};
    Renderer renderer;
    Camera camera;
    camera.fit(scene.box(), {1280, 800});
    renderer.render(scene, camera, {1280, 800}, 1); // at rest: sent once, its stand-in begun
    renderer.set_moving(true);
    std::this_thread::sleep_for(std::chrono::seconds(2)); // the stand-in is made beside
    double cut_mm = 0;
    for (auto _ : state) {
        camera.orbit(3, 1);
        if (state.range(1)) scene.section = Eigen::Vector4d(0, 0, -1, cut_mm += 0.5);
        benchmark::DoNotOptimize(renderer.render(scene, camera, {1280, 800}, 1));
    }
}
BENCHMARK(orbit_of_many)
    ->ArgNames({"fine", "cut"})
    ->Args({503, 0})
    ->Args({711, 0})
    ->Args({711, 1})
    ->Unit(benchmark::kMillisecond)
    ->Iterations(30)
    ->UseRealTime();

/// Until a project's parts are in the picture; what comes after is not counted.
void open_and_draw(benchmark::State& state, const QString& project = demo) {
    for (auto _ : state) {
        Session session;
        MainWindow window(&session);
        window.show();
        session.document().open(project);
        while (!session.results().evaluation_is_current()) QApplication::processEvents(QEventLoop::WaitForMoreEvents);
        window.view()->picture();
        window.view()->repaint();
        state.PauseTiming();
        session.wait_until_done();
        state.ResumeTiming();
    }
}

/// Each example of the start page.
void example_opened(benchmark::State& state) {
    const char* const names[] = {"vent-flap", "pull-of-links", "seed-box", "leaf-guard"};
    const char* const name = names[state.range(0)];
    state.SetLabel(name);
    open_and_draw(state, QString(SOURCE_DIR) + "/data/examples/" + name + "/project.json");
}
BENCHMARK(example_opened)->DenseRange(0, 3)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

/// Window up with the demo's parts in the picture, in a process that is warm.
void window_with_demo(benchmark::State& state) {
    open_and_draw(state);
}
BENCHMARK(window_with_demo)->Unit(benchmark::kMillisecond)->Iterations(5)->UseRealTime();

/// The same when the project was opened before: the kernel's answers are on disk.
void window_opened_again(benchmark::State& state) {
    test::Folder folder;
    use_kernel_cache(std::make_shared<KernelCache>(folder / "kernel", kernel_made_by()));
    {
        Session session; // fills it
        session.document().open(demo);
        session.wait_until_done();
    }
    open_and_draw(state);
    use_kernel_cache(nullptr);
}
BENCHMARK(window_opened_again)->Unit(benchmark::kMillisecond)->Iterations(5)->UseRealTime();

/// Until an empty window is there and drawn.
void window_visible(benchmark::State& state) {
    for (auto _ : state) {
        Session session;
        MainWindow window(&session);
        window.show();
        QApplication::processEvents();
        window.view()->picture();
        window.view()->repaint();
        state.PauseTiming();
        session.wait_until_done(200);
        state.ResumeTiming();
    }
}
BENCHMARK(window_visible)->Unit(benchmark::kMillisecond)->Iterations(5)->UseRealTime();

const std::string& million_facets() {
    static const std::string bytes = write_stl_binary(test::sphere(50, 500)); // 998,000 facets
    return bytes;
}

void read_and_inspect_million(benchmark::State& state) {
    const std::string& bytes = million_facets();
    InspectionOptions options;
    options.self_intersections = state.range(0) != 0;
    for (auto _ : state) {
        auto mesh = read_stl(bytes);
        benchmark::DoNotOptimize(inspect(*mesh, options));
    }
}
BENCHMARK(read_and_inspect_million)
    ->ArgName("self_intersections")
    ->Arg(0)
    ->Arg(1)
    ->Unit(benchmark::kMillisecond)
    ->Iterations(3)
    ->UseRealTime();

/// Nothing is wrong with it: found out, and given back as it is.
void mend_clean_million(benchmark::State& state) {
    const TriMesh mesh = *read_stl(million_facets());
    for (auto _ : state) benchmark::DoNotOptimize(mend(mesh));
}
BENCHMARK(mend_clean_million)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

void mend_200k(benchmark::State& state) {
    TriMesh mesh = test::soup(test::sphere(50, 223));
    for (size_t i = 0; i < 2000; ++i) std::swap(mesh.triangles[i][1], mesh.triangles[i][2]);
    for (auto _ : state) benchmark::DoNotOptimize(mend(mesh));
}
BENCHMARK(mend_200k)->Unit(benchmark::kMillisecond)->Iterations(3)->UseRealTime();

} // namespace

int main(int argc, char** argv) {
    QApplication app(argc, argv);
    theme::apply(app);
    benchmark::Initialize(&argc, argv);
    benchmark::RunSpecifiedBenchmarks();
    return 0;
}
