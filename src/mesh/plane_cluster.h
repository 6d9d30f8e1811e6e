// Facets of one plane, cut along everything that lies on them. Internal to mesh/facet_arrangement.h.
#pragma once
#include "mesh/exact_grid.h"
#include <array>
#include <utility>
#include <vector>

namespace lp::arrangement {

using Corners = std::array<int, 3>;
using Segment = std::pair<int, int>; ///< between two points

/// An input facet that a piece of surface belongs to, and whether it runs the same way (1) or against it (-1).
struct Source {
    int facet, way;
};
/// A piece of one or more input facets.
struct Piece {
    Corners corners;
    int facet;                               ///< one of its input facets: gives the plane
    int first_source = -1, last_source = -1; ///< range of `sources`; -1: that facet alone, the same way
};
struct Cut {
    std::vector<Piece> pieces;
    std::vector<Source> sources;
};

/// The two axes that a plane is seen along, so that its normal looks at the viewer.
void flat_axes(const Normal& n, int& u, int& v);

/// Each thread with its own; the points may be shared.
class PlaneCluster {
  public:
    PlaneCluster(ExactPoints& points, const std::vector<Corners>& facets, const std::vector<Normal>& normals,
                 const std::vector<int>& cluster);
    /// Cuts the facets along all segments on them; pieces know every facet that holds them.
    void cut(std::vector<Segment> segments, std::vector<int> places, Cut& out);

  private:
    void sweep();
    std::pair<int, int> way_of(const Segment& segment) const;
    void point_on(int place, int segment);
    void cross(int i, int j);
    int crossing(int a, int b, int c, int d);
    std::vector<Segment> parted();
    void triangulate(const std::vector<Segment>& parts, Cut& out);
    bool add_sources(Piece& piece, Cut& out) const;

    ExactPoints& points_;
    const std::vector<Corners>& facets_;
    const std::vector<int>& cluster_;
    const Normal& normal_;
    int u_ = 0, v_ = 1;
    std::vector<Segment> segments_;
    std::vector<int> places_, fresh_;
    std::vector<std::vector<int>> on_; ///< places on each segment
};

} // namespace lp::arrangement
