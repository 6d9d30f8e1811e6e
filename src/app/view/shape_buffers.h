// A body's triangles and edges as the graphics driver takes them. Corners that look alike are sent once: software
// OpenGL counts every corner, and a closed mesh of triangles has six times as many corners as places.
#pragma once
#include "shape/body.h"
#include <cstdint>
#include <vector>

namespace lp {

/// A corner of a facet, in mm, as the programs of renderer.cpp read it.
struct ShapeVertex {
    float position[3], normal[3];
    uint32_t face;
    bool operator==(const ShapeVertex&) const = default;
};

/// Three indices a facet, in the order of the facets.
struct ShapeTriangles {
    std::vector<ShapeVertex> vertices;
    std::vector<uint32_t> indices;
};

/// One end and side of a piece of an edge; four of them make the strip that is drawn, the last two bits of the index
/// tell which is which.
struct EdgeVertex {
    float a[3], b[3];
    uint32_t edge;
};

struct ShapeEdges {
    std::vector<EdgeVertex> vertices;
    std::vector<uint32_t> indices; ///< six a piece
};

/// Corners alike in place, direction and face are one vertex. Linear in the facets.
ShapeTriangles shape_triangles(const Tessellation& shape);
/// Every corner of every facet by itself, as a map's values need them; the indices count up.
ShapeTriangles shape_corners(const Tessellation& shape);
/// The pieces of all edges.
ShapeEdges shape_edges(const Tessellation& shape);
/// Adds the pieces of one line of at least two points.
void add_edge(ShapeEdges& edges, const std::vector<Vec3>& line, uint32_t edge);

} // namespace lp
