// Checks of the kernel's results that may wait until the results have been seen.
#pragma once
#include "base/problem.h"
#include <functional>
#include <optional>
#include <vector>

namespace lp {

/// What has still to be proved of a body; tells what is wrong with it.
using BodyCheck = std::function<std::optional<Problem>()>;

/// While one stands, checks asked for on this thread are collected in it instead of being waited for. The innermost
/// counts.
class HeldChecks {
  public:
    HeldChecks();
    ~HeldChecks();
    HeldChecks(const HeldChecks&) = delete;
    HeldChecks& operator=(const HeldChecks&) = delete;
    std::vector<BodyCheck> checks;

  private:
    HeldChecks* outer_;
};

/// While one stands, checks on this thread are made at once, whatever holds them back outside.
class ChecksAtOnce {
  public:
    ChecksAtOnce();
    ~ChecksAtOnce();
    ChecksAtOnce(const ChecksAtOnce&) = delete;
    ChecksAtOnce& operator=(const ChecksAtOnce&) = delete;

  private:
    HeldChecks* outer_;
};

/// Makes the checks side by side, or leaves them to who holds them back; the first Problem found.
std::optional<Problem> check_or_hold(std::vector<BodyCheck> checks);

} // namespace lp
