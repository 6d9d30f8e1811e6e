#include "app/worker.h"
#include <QElapsedTimer>
#include <QMetaObject>
#include <algorithm>
#include <sys/resource.h>
#include <unistd.h>

namespace lp {

Worker::Worker(QObject* parent) : QObject(parent) {
    for (Bench* bench : {&quick_, &asked_, &files_}) bench->thread = std::thread([this, bench] { run(*bench); });
}

void Worker::end() {
    {
        std::lock_guard lock(mutex_);
        quit_ = true;
        for (Bench* bench : {&quick_, &asked_}) {
            bench->waiting.clear();
            if (bench->running) bench->running->token.cancel();
        }
    }
    wake_.notify_all();
    for (Bench* bench : {&quick_, &asked_, &files_})
        if (bench->thread.joinable()) bench->thread.join();
}

void Worker::post(std::function<void()> call) {
    QMetaObject::invokeMethod(this, std::move(call), Qt::QueuedConnection);
}

/// The hand goes first: this thread, and the threads and helpers that it begins, give way to the interface thread when
/// there are fewer processors than work.
static void give_way() {
    setpriority(PRIO_PROCESS, id_t(gettid()), 3);
}

void Worker::run(Bench& bench) {
    give_way();
    while (true) {
        Job job;
        {
            std::unique_lock lock(mutex_);
            bench.running.reset();
            hold_asked();
            wake_.notify_all();
            wake_.wait(lock, [&] { return quit_ || !bench.waiting.empty(); });
            if (bench.waiting.empty()) return;
            job = std::move(bench.waiting.front());
            bench.waiting.pop_front();
            bench.running = job;
            hold_asked();
        }
        run_job(job);
    }
}

void Worker::run_job(const Job& job) {
    Task task;
    task.cancel = job.token;
    task.cancel.runs_here();
    QElapsedTimer timer;
    timer.start();
    auto last = std::make_shared<qint64>(-1000);
    task.progress = [this, timer, last](const std::string& doing, double share) {
        // Quick work stays silent; the rest tells at most twelve times a second.
        if (timer.elapsed() < 250 || timer.elapsed() - *last < 80) return;
        *last = timer.elapsed();
        post([this, text = QString::fromStdString(doing), share] {
            if (!idle()) emit busy(text, share);
        });
    };
    job.work(task);
    post([this] { ended(); });
}

void Worker::ended() {
    if (--pending_ == 0) emit busy({}, 0);
}

void Worker::hold_asked() {
    bool urgent = quick_.running || !quick_.waiting.empty();
    if (asked_.running) asked_.running->token.hold(urgent);
}

void Worker::start(Lane lane, const char* what, Work work) {
    {
        std::lock_guard lock(mutex_);
        Bench& bench = bench_for(lane);
        if (lane <= Lane::Rest) {
            // A new snapshot makes vain what was to be known of the one before.
            auto vain = [&](const Job& job) { return lane == Lane::Snapshot || job.what == what; };
            pending_ -= int(std::erase_if(bench.waiting, vain));
            if (bench.running && vain(*bench.running)) bench.running->token.cancel();
        }
        ++pending_;
        auto after =
            std::find_if(bench.waiting.begin(), bench.waiting.end(), [&](const Job& j) { return j.lane > lane; });
        bench.waiting.insert(after, Job{lane, what, std::move(work)});
        hold_asked();
    }
    wake_.notify_all();
}

void Worker::stop() {
    {
        std::lock_guard lock(mutex_);
        for (Bench* bench : {&quick_, &asked_}) {
            pending_ -= int(bench->waiting.size());
            bench->waiting.clear();
            if (bench->running) bench->running->token.cancel();
        }
        hold_asked();
    }
    emit busy({}, 0);
}

void Worker::finish_saving() {
    std::unique_lock lock(mutex_);
    wake_.wait(lock, [this] { return !files_.running && files_.waiting.empty(); });
}

} // namespace lp
