// Curves put in order: end to end, into loops and open chains.
#pragma once
#include "outline/arrangement.h"

namespace lp {

struct Chain {
    std::vector<SourcedCurve> curves; ///< each starts where the one before ends
    bool closed = false;
    std::vector<Curve> plain() const;
};

/// Joins curves whose ends are within `near_mm`, turning them as needed; the first curve keeps its direction. A joint
/// of three or more ends breaks chains.
std::vector<Chain> chains_of(const std::vector<SourcedCurve>& curves, double near_mm = 1e-5);
Chain reversed(const Chain& chain);
/// The longest of those that are open.
std::optional<Chain> longest_open_chain(const std::vector<SourcedCurve>& curves);

} // namespace lp
