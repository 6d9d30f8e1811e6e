// A raft: a flat body of some layers under everything, for small feet and beds that do not hold.
#pragma once
#include "bed/slicing.h"

namespace lp {

inline constexpr double raft_margin_mm = 3; ///< how far it reaches past what stands on it

/// From z = -height up to a gap below z = 0, where the part stands; under the feet of supports it reaches up to them,
/// so that they stand fast while the part comes off. One closed body, or more where the part stands in places far
/// apart. Empty where nothing lies on the bed.
TriMesh make_raft(const TriMesh& posed, const TriMesh& supports, double height_mm, double gap_mm, double layer_mm,
                  const Task& task = {});

} // namespace lp
