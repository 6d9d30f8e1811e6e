#include "shape/held_checks.h"
#include <future>
#include <iterator>

namespace lp {

namespace {
thread_local HeldChecks* innermost = nullptr;
} // namespace

HeldChecks::HeldChecks() : outer_(innermost) {
    innermost = this;
}

HeldChecks::~HeldChecks() {
    innermost = outer_;
}

ChecksAtOnce::ChecksAtOnce() : outer_(innermost) {
    innermost = nullptr;
}

ChecksAtOnce::~ChecksAtOnce() {
    innermost = outer_;
}

std::optional<Problem> check_or_hold(std::vector<BodyCheck> checks) {
    if (checks.empty()) return std::nullopt;
    if (innermost) {
        std::move(checks.begin(), checks.end(), std::back_inserter(innermost->checks));
        return std::nullopt;
    }
    std::vector<std::future<std::optional<Problem>>> beside;
    for (size_t i = 1; i < checks.size(); ++i) beside.push_back(std::async(std::launch::async, checks[i]));
    std::optional<Problem> wrong = checks.front()();
    for (auto& other : beside)
        if (auto found = other.get(); found && !wrong) wrong = found;
    return wrong;
}

} // namespace lp
