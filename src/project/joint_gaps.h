// The gaps in which bodies of one part move: printed in place, they must not hang.
#pragma once
#include "check/finding.h"
#include "fit/facing.h"
#include "project/evaluate.h"

namespace lp {

struct JointGap {
    size_t a = 0, b = 0;              ///< bodies of the part
    std::vector<FacingSample> places; ///< on either, in the design frame
};

/// What hangs of a joint is told from a few lines on.
inline constexpr double joint_hangs_from_mm2 = 4;

/// Every two bodies of the part that come nearer than a millimetre and do not touch. Empty for most parts.
std::vector<JointGap> joint_gaps(const PartResult& made, const Task& task = {});

/// Of both sides of the gaps, what looks down beyond the limit and a degree; joints are drawn up to the limit itself.
double hanging_mm2(const std::vector<JointGap>& gaps, const Transform& pose, double limit_deg);

/// Both sides of the gaps by the way they look, mm2: enough to tell what hangs in any pose.
std::vector<Vec3> area_vectors(const std::vector<JointGap>& gaps);

/// The joint that hangs most, where one does over more than a few lines.
std::optional<Finding> lying_joint(const PartResult& made, const std::vector<JointGap>& gaps, const Transform& pose,
                                   double limit_deg);

} // namespace lp
