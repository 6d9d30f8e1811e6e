// A large project is opened: how long the window answers nobody meanwhile. Run under tools/xvfb.
#include "app/main_window.h"
#include "test_meshes.h"
#include <QApplication>
#include <QElapsedTimer>
#include <benchmark/benchmark.h>
#include <ctime>
#include <fstream>
#include <future>
#include <nlohmann/json.hpp>
#include <pthread.h>
#include <thread>

using namespace lp;

namespace {

/// A part of 700 steps: 35 plates with 19 holes each.
std::string seven_hundred_steps() {
    nlohmann::json steps = nlohmann::json::array();
    for (int i = 0; i < 700; ++i) {
        const int plate = i / 20, k = i % 20;
        const double x = 30.0 * (plate % 7), y = 30.0 * (plate / 7);
        nlohmann::json fields{{"at_x", x}, {"at_y", y}, {"does", "new"}};
        if (k == 0)
            fields.update({{"size_x", 25}, {"size_y", 25}, {"size_z", 3}});
        else
            fields.update({{"diameter", 3},
                           {"height", 10},
                           {"at_x", x - 8 + 4 * (k % 5)},
                           {"at_y", y - 8 + 4 * (k / 5)},
                           {"at_z", -3},
                           {"does", "cut"}});
        steps.push_back({{"kind", k ? "cylinder" : "block"}, {"fields", fields}});
    }
    return nlohmann::json{{"format", "loose-peg"}, {"version", 1}, {"parts", {{{"name", "Sieve"}, {"steps", steps}}}}}
        .dump();
}

/// Asks the interface thread again and again from another one; the longest wait for an answer is the longest block. On
/// a busy machine some of that is waiting for a processor: the processor time the thread used meanwhile is told beside
/// it.
class LongestBlock {
  public:
    explicit LongestBlock(QObject* there)
        : asker_([this, there] {
              while (!enough_) {
                  const auto asked = std::chrono::steady_clock::now();
                  const double used = used_ms();
                  std::promise<void> answered;
                  QMetaObject::invokeMethod(
                      there, [&answered] { answered.set_value(); }, Qt::QueuedConnection);
                  answered.get_future().wait();
                  const std::chrono::duration<double, std::milli> took = std::chrono::steady_clock::now() - asked;
                  longest_ms_ = std::max(longest_ms_.load(), took.count());
                  busiest_ms_ = std::max(busiest_ms_.load(), used_ms() - used);
                  std::this_thread::sleep_for(std::chrono::milliseconds(1));
              }
              ended_ = true;
          }) {}
    void end() {
        enough_ = true;
        while (!ended_) QApplication::processEvents();
        asker_.join();
    }
    double longest_ms() const { return longest_ms_; }
    double busiest_ms() const { return busiest_ms_; }

  private:
    static clockid_t clock_of_this_thread() {
        clockid_t clock{};
        pthread_getcpuclockid(pthread_self(), &clock);
        return clock;
    }
    double used_ms() const {
        timespec now{};
        clock_gettime(clock_, &now);
        return double(now.tv_sec) * 1e3 + double(now.tv_nsec) / 1e6;
    }
    const clockid_t clock_ = clock_of_this_thread();
    std::atomic<bool> enough_ = false, ended_ = false;
    std::atomic<double> longest_ms_ = 0, busiest_ms_ = 0;
    std::thread asker_;
};

void open_700_steps(benchmark::State& state) {
    test::Folder folder;
    const auto file = folder.path / "sieve.json";
    std::ofstream(file) << seven_hundred_steps();
    for (auto _ : state) {
        Session session;
        MainWindow window(&session);
        window.show();
        // The first picture of a window is none of the opening's work.
        QElapsedTimer shown;
        for (shown.start(); shown.elapsed() < 500;) QApplication::processEvents(QEventLoop::AllEvents, 20);
        LongestBlock block(&session);
        session.document().open(QString::fromStdString(file.string()));
        QElapsedTimer rest;
        while (!rest.isValid() || rest.elapsed() < 1500) {
            if (session.results().analysis_is_current() && !rest.isValid()) rest.start();
            QApplication::processEvents(QEventLoop::WaitForMoreEvents);
        }
        block.end();
        state.counters["longest_block_ms"] = block.longest_ms();
        state.counters["of_it_processor_ms"] = block.busiest_ms();
    }
}
BENCHMARK(open_700_steps)->Unit(benchmark::kMillisecond)->Iterations(1)->UseRealTime();

} // namespace
