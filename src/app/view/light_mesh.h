// Lighter versions of a body for the picture: one that nobody can tell from the body at the scale it is looked at, and
// a coarse one of a very large body while the view moves. What is picked, measured or exported never comes from here.
#pragma once
#include "app/view/shape_buffers.h"

namespace lp {

/// How far the lighter version may be off the body, in mm; it is drawn where a pixel is at least `light_from_pixel_mm`.
inline constexpr double light_error_mm = 0.04;
inline constexpr double light_from_pixel_mm = 0.1;
/// Bodies with fewer facets have no lighter version.
inline constexpr size_t light_from_facets = 600;

struct LightShape {
    ShapeTriangles triangles;
    ShapeEdges edges;
};

/// Fewer facets and pieces of edges, off the body by about `error_mm` at most (the error of the simplifier is measured
/// by quadrics: see meshoptimizer.h). Corners keep their directions, so that it is shaded as the body is.
LightShape light_shape(const Tessellation& shape, double error_mm = light_error_mm);

/// Bodies of more facets than this are drawn coarsely while the view moves.
inline constexpr size_t coarse_from_facets = 150000;

/// About `facets` facets, whatever that costs in shape; no edges.
ShapeTriangles coarse_triangles(const Tessellation& shape, size_t facets = 20000);

} // namespace lp
