// What is to be bought for a project: every piece its sentences name.
#pragma once
#include "project/evaluate.h"

namespace lp {

struct HardwareCount {
    std::string name; ///< "M3 x 12 countersunk socket screw, ISO 10642"
    size_t count = 0;
    bool sure = true; ///< the table is
};

/// Of steps that are on and worked, times what repeats them, times the quantity of their part. A piece that stands
/// there as a stand-in and that a hole is made for is counted once: the larger number of both. By name.
std::vector<HardwareCount> hardware_list(const Evaluation& evaluation);

} // namespace lp
