// Edges of an arrangement and the walk round them that finds the regions.
#pragma once
#include "outline/arrangement.h"

namespace lp {

struct GraphEdge {
    Curve curve; ///< from node a to node b
    uint32_t a = 0, b = 0;
    uint32_t source = 0;
    double t0 = 0, t1 = 0; ///< on the source
    Vec2 middle = Vec2::Zero();
    struct Again {
        uint32_t source;
        bool same_way;
    };
    std::vector<Again> again; ///< other sources that run along it
};

struct PlanarGraph {
    std::vector<Vec2> nodes;
    std::vector<GraphEdge> edges; ///< crossing nowhere between their nodes
};

/// The bounded faces, with holes, depth and winding numbers by contour set.
std::vector<FlatRegion> find_regions(const PlanarGraph& graph, const std::vector<SourcedCurve>& sources);

} // namespace lp
