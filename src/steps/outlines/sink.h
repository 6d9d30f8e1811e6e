// Pockets and pads straight on one flat face, made without a boolean: letters by the hundred. Included only by
// steps/*.cpp.
#pragma once
#include "outline/outline_shape.h"
#include "shape/body.h"
#include "shape/exact_solids.h"

namespace lp {

/// The body with the regions sunk (`cut`, from z = low up to the drawing plane) or raised (from the plane to z = high)
/// where the drawing plane is one of its flat faces, looking out of it. The face keeps its name and stays one face
/// round the pockets. Nothing when that is not so: when the regions touch the face's border, or the box of another face
/// comes near the prisms; a boolean is to be used then. Linear in the number of faces.
std::optional<Body> sink_directly(const Body& body, const std::vector<FlatRegion>& regions, const Transform& plane,
                                  double low, double high, bool cut, TagSource tags);

} // namespace lp
