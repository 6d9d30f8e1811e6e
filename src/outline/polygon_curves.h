// Polygons that stand for round things, as lines and arcs again.
#pragma once
#include "outline/curve.h"

namespace lp {

/// The closed curve a polygon stands for: runs of five corners and more that lie on one circle within twice the export
/// deflection become arcs, and all of one circle a circle, run the same way; the rest stays lines.
std::vector<Curve> curves_of_polygon(std::vector<Vec2> polygon);

} // namespace lp
