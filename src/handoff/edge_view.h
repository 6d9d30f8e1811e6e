// The edges of a body as they are seen from one side: for drawings.
#pragma once
#include "base/task.h"
#include "outline/curve.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Which way a drawing looks: unit, at right angles.
struct ViewAxes {
    Vec3 right, up;
    Vec3 toward() const { return right.cross(up); } ///< the eye
    Vec2 flat(const Vec3& p) const { return {p.dot(right), p.dot(up)}; }
};

/// Lines in the plane of the drawing, mm.
struct EdgeView {
    std::vector<std::vector<Vec2>> seen, hidden;
    Box2 box; ///< of all of the body
};

/// Edges where facets turn by more than 25 degrees, and the outline; where the body itself stands before them they are
/// hidden. Along an edge this is looked at every 300th of the body's size. Outlines of round faces follow their facets.
EdgeView edge_view(const TriMesh& mesh, const ViewAxes& axes, const Task& task = {});

} // namespace lp
