// The convex hull of points (CGAL).
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

/// Closed, facing outward. Empty when the points lie in a plane, on a line or in one place.
TriMesh convex_hull(const std::vector<Vec3>& points);
/// The hull of those points alone that stand out: none lies more than `within_mm` beyond any of its facets. For many
/// points, of which a round part has most on its hull: near in time to reading them, where the whole hull takes long.
/// Few points are taken all.
TriMesh outer_hull(const std::vector<Vec3>& points, double within_mm);
/// Directions evenly over the sphere: a spiral by the golden angle from turn to turn (H. Vogel, 1979).
std::vector<Vec3> even_directions(size_t count);

} // namespace lp
