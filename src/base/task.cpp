#include "base/task.h"
#include <atomic>
#include <condition_variable>
#include <mutex>
#include <thread>

namespace lp {

struct CancelToken::State {
    std::atomic<bool> cancelled = false, held = false;
    std::mutex mutex;
    std::condition_variable goes_on;
    std::thread::id runs_on;
};

CancelToken::CancelToken() : state_(std::make_shared<State>()) {}

void CancelToken::cancel() const {
    {
        std::lock_guard lock(state_->mutex);
        state_->cancelled = true;
    }
    state_->goes_on.notify_all();
}

bool CancelToken::cancelled() const {
    State& s = *state_;
    if (s.held.load(std::memory_order_relaxed)) {
        std::unique_lock lock(s.mutex);
        if (s.runs_on == std::this_thread::get_id()) s.goes_on.wait(lock, [&] { return s.cancelled || !s.held; });
    }
    return s.cancelled.load(std::memory_order_relaxed);
}

void CancelToken::hold(bool held) const {
    {
        std::lock_guard lock(state_->mutex);
        state_->held = held;
    }
    if (!held) state_->goes_on.notify_all();
}

void CancelToken::runs_here() const {
    std::lock_guard lock(state_->mutex);
    state_->runs_on = std::this_thread::get_id();
}

} // namespace lp
