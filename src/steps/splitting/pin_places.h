// Where pins go in a cut: far apart, well inside, with material round them as deep as they reach.
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

struct PinRoom {
    double reach_mm = 4; ///< from the middle of a pin to the outline: its half width and the wall round its hole
    double deep_mm = 8;  ///< on either side of the plane
};

/// A plane of pins, and how far it goes along its x axis.
struct PinPlane {
    Transform plane = Transform::Identity();
    double from_mm = -1e300, to_mm = 1e300;
};

/// Up to `count` places in the planes, the two furthest from each other first, each next one as far from those before
/// as it goes; fewer where there is no room for more: their middles, with the axes of their plane. `widest_mm`: half
/// the width of the widest place there is.
std::vector<Transform> pin_frames(const TriMesh& mesh, const std::vector<PinPlane>& planes, const PinRoom& room,
                                  size_t count, double* widest_mm = nullptr);
/// The same in one plane.
std::vector<Vec2> pin_places(const TriMesh& mesh, const Transform& plane, const PinRoom& room, size_t count,
                             double* widest_mm = nullptr);

} // namespace lp
