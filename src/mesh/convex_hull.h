// The convex hull of points (CGAL).
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

/// Closed, facing outward. Empty when the points lie in a plane, on a line or in one place.
TriMesh convex_hull(const std::vector<Vec3>& points);

} // namespace lp
