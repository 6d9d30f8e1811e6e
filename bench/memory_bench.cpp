// What the window keeps in memory after many edits of the demo. Run under tools/xvfb.
#include "app/main_window.h"
#include "app/view/view_widget.h"
#include <QApplication>
#include <benchmark/benchmark.h>
#include <fstream>
#include <malloc.h>
#include <random>
#include <unistd.h>

using namespace lp;

namespace {

double resident_mb() {
    std::ifstream statm("/proc/self/statm");
    double all = 0, resident = 0;
    statm >> all >> resident;
    return resident * double(sysconf(_SC_PAGESIZE)) / 1e6;
}

/// Asked for and not given back, mapped blocks among it.
double in_use_mb() {
    const auto info = mallinfo2();
    return double(info.uordblks + info.hblkhd) / 1e6;
}

/// Random numbers of the demo are changed, and some edits undone, in all stretches. A leak goes on growing between a
/// third and the end; what is kept for undo does not.
void memory_after_edits(benchmark::State& state) {
    std::mt19937 random(5);
    for (auto _ : state) {
        Session session;
        MainWindow window(&session);
        window.show();
        session.document().open(QString(SOURCE_DIR) + "/data/demo/rain-gauge/project.json");
        session.wait_until_done();
        const auto edits = size_t(state.range(0));
        state.counters["start_MB"] = resident_mb();
        for (size_t i = 0; i < edits; ++i) {
            if (i == edits / 3) {
                state.counters["third_MB"] = resident_mb();
                state.counters["third_in_use_MB"] = in_use_mb();
            }
            if (i % 7 == 6)
                session.document().undo();
            else
                session.document().edit(
                    SetParameter{"peg_d", format_number(5 + double(random() % 2000) / 1000, 4) + " mm", {}, {}});
            session.workspace().set_stretch(Stretch(random() % 5));
            session.wait_until_done();
            window.view()->picture();
            window.view()->repaint();
            // Without an event loop of its own nothing else lets go of what asked to be deleted later.
            QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
        }
        state.counters["end_MB"] = resident_mb();
        state.counters["end_in_use_MB"] = in_use_mb();
    }
}
BENCHMARK(memory_after_edits)->Arg(240)->Unit(benchmark::kSecond)->Iterations(1)->UseRealTime();

} // namespace
