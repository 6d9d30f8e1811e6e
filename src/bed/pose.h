// How a part lies on the bed: which way is down, a turn about the vertical, dropped to the bed.
#pragma once
#include "base/problem.h"
#include "shape/face_reference.h"
#include <optional>

namespace lp {

/// Turns design into print: `down` to -z, then typed turns about x, y and z, then the lowest point to z = 0 and the
/// middle of the box to x = y = 0.
Transform pose_transform(const TriMesh& mesh, const Vec3& down, const Vec3& turn_deg);

} // namespace lp
