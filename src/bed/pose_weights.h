// What counts when ways up are compared, and how much.
#pragma once
#include "base/problem.h"
#include <optional>
#include <vector>

namespace lp {

/// What a way up costs, in points. Common practice, no published source.
struct PoseWeights {
    double support_cm3 = 1;
    double overhang_cm2 = 0.3; ///< rough where the supports stood
    double height_cm = 0.1;    ///< time
    double tips = 100;
    double too_large = 1000;
    double no_footing = 2;   ///< times the share of 1 cm2 that it does not stand on
    double seen_cm2 = 1;     ///< rough where it is seen
    double mating_cm2 = 2;   ///< rough where it goes against another part
    double never_cm2 = 10;   ///< hangs where no support may touch it
    double lying_bore = 0.5; ///< a round hole with a flat top
    double joint_cm2 = 10;   ///< of a joint's gap hangs: what droops there closes it
    double load_across = 10; ///< the whole load pulls the layers apart
    bool operator==(const PoseWeights&) const = default;
};

/// Those that a maker sets.
struct PoseWeightRow {
    const char *key, *words, *hint; ///< `key` as in files
    double PoseWeights::*member;
};
const std::vector<PoseWeightRow>& pose_weight_rows();
/// Problem when one makes no sense.
std::optional<Problem> check_pose_weights(const PoseWeights& weights);

} // namespace lp
