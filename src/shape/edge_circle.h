// The circle an edge lies on.
#pragma once
#include "base/geometry.h"
#include <optional>
#include <vector>

namespace lp {

struct EdgeCircle {
    Vec3 centre = Vec3::Zero(), normal = Vec3::UnitZ(); ///< the points run round the normal counter-clockwise
    double radius_mm = 0;
};

/// Of an edge's points, a whole circle (the last point is the first) or an arc of it. None: they lie on no circle, or
/// an arc has too few to tell.
std::optional<EdgeCircle> circle_of(const std::vector<Vec3>& points);

} // namespace lp
