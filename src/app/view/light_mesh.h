// A coarse stand-in of a large body, shown while the view moves: near enough to see where one is.
#pragma once
#include "shape/body.h"

namespace lp {

/// Facets of the light stand-in, with the face of the body each stands for.
struct LightMesh {
    TriMesh mesh;
    std::vector<uint32_t> face_of;
};

/// Bodies up to this many facets are drawn as they are.
inline constexpr size_t light_from_facets = 150000;

/// Corners in one cell of a grid become one, at their mean; facets that fall together vanish. `cells` along the longest
/// side of the box. Off the body by less than a cell. Linear in the facets.
LightMesh light_mesh(const Tessellation& shape, int cells = 72);

} // namespace lp
