// What tells a picked face or edge from others of its name: what it meets, and how far it is from the place.
#pragma once
#include "shape/body.h"

namespace lp {

TagSet neighbours_of(const Tessellation& shape, size_t face);
/// mm; 0 on it.
double distance_to_face(const Tessellation& shape, size_t face, const Vec3& place);
double distance_to_edge(const EdgeInfo& edge, const Vec3& place);

} // namespace lp
