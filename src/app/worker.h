// Work beside the interface thread, in lanes: the newest snapshot goes first, then what the stretch of work shows, then
// the rest, then long work that was asked for. Files are written on a thread of their own and are never dropped.
#pragma once
#include "base/task.h"
#include <QObject>
#include <QString>
#include <condition_variable>
#include <deque>
#include <mutex>
#include <thread>

namespace lp {

/// Where a piece of work waits; earlier lanes go first.
enum class Lane {
    Snapshot, ///< making the newest snapshot; a newer one takes its place and stops what was begun for the older
    Shown,    ///< what the stretch of work shows of it
    Rest,     ///< the rest of what is known of it
    Asked,    ///< long work that was asked for: held while earlier lanes are busy, and goes on after
    Save      ///< files; neither stopped nor dropped
};

class Worker : public QObject {
    Q_OBJECT
  public:
    using Work = std::function<void(const Task&)>;

    explicit Worker(QObject* parent = nullptr);
    ~Worker() override { end(); }
    /// Stops everything but files, which are finished; nothing is done afterwards.
    void end();

    /// Of two works with the same `what` in the lanes up to Rest the newer takes the place of the older.
    void start(Lane lane, const char* what, Work work);
    /// What is done and what waits is let go, files apart.
    void stop();
    /// Nothing is done or waits.
    bool idle() const { return pending_ == 0; }
    /// Waits until all files are written.
    void finish_saving();
    /// Calls back on the interface thread.
    void post(std::function<void()> call);

  signals:
    void busy(const QString& doing, double share); ///< empty when idle

  private:
    struct Job {
        Lane lane = Lane::Rest;
        std::string what;
        Work work;
        CancelToken token = {};
    };
    /// A thread and what waits for it.
    struct Bench {
        std::deque<Job> waiting;
        std::optional<Job> running;
        std::thread thread;
    };
    Bench& bench_for(Lane lane) { return lane == Lane::Save ? files_ : lane == Lane::Asked ? asked_ : quick_; }
    void run(Bench& bench);
    void run_job(const Job& job);
    void ended();
    void hold_asked(); ///< with the lock held

    mutable std::mutex mutex_;
    std::condition_variable wake_;
    Bench quick_, asked_, files_;
    bool quit_ = false;
    std::atomic<int> pending_{0};
};

} // namespace lp
