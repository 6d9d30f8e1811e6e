// Faces told apart by what is beside them: a flat one between two flat walls (the top of a rib, the roof of a slot),
// the inside of a round.
#pragma once
#include "shape/body.h"

namespace lp {

struct FaceBetweenWalls {
    Vec3 along;                      ///< the way it runs
    Vec3 out, out_a, out_b;          ///< outward normals of the face and the walls
    Vec3 at, at_a, at_b;             ///< a place on each; on the walls it is an end of the edge to the face
    double from = 0, to = 0;         ///< its ends along the way
    double depth_a = 0, depth_b = 0; ///< how far the walls reach from the face's edges, against its normal
};

/// By its two longest straight edges that run the same way, each towards another flat face: walls that it stands on (a
/// rib's top), or with `inner` walls that it hangs between (a slot's roof). Nothing without such.
std::optional<FaceBetweenWalls> face_between_walls(const Body& body, size_t face, bool inner);

/// Whether a round face looks at its axis: the wall of a hole.
bool is_hollow(const Tessellation& tessellation, size_t face);

} // namespace lp
