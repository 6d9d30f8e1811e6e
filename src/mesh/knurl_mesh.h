// Small pyramids in rows that cross: what is added to a face, or taken off it, to make a knurl.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Over a round face the axis is z and the pattern goes all round; over a flat one x runs across, y out of the face, z
/// along.
struct KnurlShape {
    bool round = true, hollow = false; ///< hollow: the face is the wall of a hole
    double radius_mm = 10;
    Vec2 low = Vec2::Zero(), high = Vec2::Zero(); ///< across (flat faces only) and along, mm
    double apart_mm = 2;                          ///< between the grooves that part the pyramids, square to them
    double high_mm = 0.5, slope_deg = 45;         ///< of a pyramid, and of its flanks from the face
    bool cut = false;                             ///< pyramids are pits
    double base_mm = 0.05; ///< the body's other side: so deep below the face, or above it where it is cut
    double growth_mm = 0;  ///< the part is remade larger by this: its pyramids stand out by as much
};

/// A closed mesh. The pyramids end at nothing at both ends. Fails where there is no room for one, and for more than a
/// million facets.
Expected<TriMesh> knurl_mesh(const KnurlShape& shape);

} // namespace lp
