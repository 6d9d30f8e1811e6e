// The turn from one direction to another; compiled once, because the library solves it by a whole decomposition.
#pragma once
#include "base/geometry.h"

namespace lp {

/// The shortest turn that takes the direction `from` to `to`, lengths of any size but zero. About some axis across them
/// when they are opposite.
Eigen::Quaterniond turn_between(const Vec3& from, const Vec3& to);

/// A frame at the origin whose z axis points along the unit vector `axis`; exactly the identity for z itself.
Transform frame_along(const Vec3& axis);

} // namespace lp
