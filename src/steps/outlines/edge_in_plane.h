// Edges of the part as a drawing sees them.
#pragma once
#include "base/problem.h"
#include "outline/curve.h"
#include "shape/body.h"

namespace lp {

/// An edge of the part seen along a drawing's normal: a line, arc or circle; a Problem for other forms.
Expected<Curve> edge_in_plane(const EdgeInfo& edge, const Transform& plane);

} // namespace lp
