// Stopping long work and telling how far it is. Cheap to copy; safe to use from any thread.
#pragma once
#include <atomic>
#include <functional>
#include <memory>
#include <string>

namespace lp {

/// Shared by the one who may stop a piece of work and the loops that poll it.
class CancelToken {
  public:
    CancelToken() : flag_(std::make_shared<std::atomic<bool>>(false)) {}
    void cancel() const { flag_->store(true, std::memory_order_relaxed); }
    bool cancelled() const { return flag_->load(std::memory_order_relaxed); }

  private:
    std::shared_ptr<std::atomic<bool>> flag_;
};

/// What a long function is given: a way to be stopped and a way to tell how far it is.
struct Task {
    CancelToken cancel;
    /// Called with what is being done and the share done, 0 to 1. May be empty; called on the worker's thread.
    std::function<void(const std::string& doing, double share)> progress;

    bool stopped() const { return cancel.cancelled(); }
    void tell(const std::string& doing, double share) const {
        if (progress) progress(doing, share);
    }
};

} // namespace lp
