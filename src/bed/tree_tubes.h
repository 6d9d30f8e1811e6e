// A piece of branching support between two levels: from one or more discs above down to one below.
#pragma once
#include "bed/tree_growth.h"

namespace lp {

struct Tube {
    std::vector<int> above; ///< nodes that rest on it; empty once it became part of another
    Vec3 to;
    double radius = 0;
};

/// Least distance between two tubes, level for level: hulls of moving discs. Negative when they reach into each other.
double gap_between(const std::vector<TreeNode>& nodes, const Tube& a, const Tube& b);

} // namespace lp
