// Stopping long work, holding it for more urgent work, and telling how far it is. Cheap to copy; safe to use from any
// thread.
#pragma once
#include <functional>
#include <memory>
#include <string>

namespace lp {

/// Shared by the one who may stop or hold a piece of work and the loops that poll it.
class CancelToken {
  public:
    CancelToken();
    void cancel() const;
    /// Polled by loops. Where the work is held, its own thread waits here until it may go on; threads that only help it
    /// never wait.
    bool cancelled() const;
    /// Holds the work at its next look at the token, or lets it go on.
    void hold(bool held) const;
    /// Says that the work runs on the calling thread.
    void runs_here() const;

  private:
    struct State;
    std::shared_ptr<State> state_;
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
