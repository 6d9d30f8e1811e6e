// The border of a flat face as regions to build on.
#pragma once
#include "outline/arrangement.h"
#include "shape/body.h"

namespace lp {

/// In the x and y of `frame`, drawn in by `inset_mm` (out where it is negative) with mitred corners; round borders are
/// polygons of the face's facets. A Problem where nothing is left.
Expected<std::vector<FlatRegion>> border_of_face(const Tessellation& tessellation, size_t face, const Transform& frame,
                                                 double inset_mm);

} // namespace lp
