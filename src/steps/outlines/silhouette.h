// What bodies hide of a plane when one looks square at it: their silhouette as an outline.
#pragma once
#include "outline/flat_paths.h"
#include "steps/step_kind.h"

namespace lp {

/// Outer borders and holes of what the bodies cover, seen along the plane's normal, in the plane's x and y. Runs of
/// facets that lie on one circle within twice the export deflection become arcs. O(n log n) in the number of triangles.
Expected<FlatPaths> silhouette_of(const std::vector<const Body*>& bodies, const Transform& plane);

} // namespace lp
