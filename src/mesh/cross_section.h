// Where a plane cuts a mesh.
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

/// Closed polygons in the plane's x and y, material on the left: outer ones counter-clockwise, holes clockwise. A
/// corner on the plane counts as above it. Of an open mesh only what closes. Proportional to the number of triangles.
std::vector<std::vector<Vec2>> cross_section(const TriMesh& mesh, const Transform& plane);

} // namespace lp
