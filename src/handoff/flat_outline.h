// The outline of a flat face, or of where a plane cuts, to be written as a drawing.
#pragma once
#include "outline/curve.h"
#include "shape/body.h"

namespace lp {

/// Closed loops of lines and arcs in a plane seen from where its z points, upright where the plane is: outer ones
/// counter-clockwise, holes clockwise.
struct FlatOutline {
    std::vector<std::vector<Curve>> loops;
    Transform plane = Transform::Identity();
};

/// Seen from the side `normal` points to: up is z, of level planes y.
Transform plane_seen(const Vec3& normal, const Vec3& point);

/// A Problem where the face is not flat within 0.01 mm.
Expected<FlatOutline> face_outline(const Tessellation& shape, size_t face);
/// Of all of them, each by itself; a Problem where nothing is cut.
Expected<FlatOutline> section_outline(const std::vector<TriMesh>& meshes, const Transform& plane);

} // namespace lp
