// Exact distances between triangle meshes: the heart of the gap ledger.
#pragma once
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <limits>

namespace lp {

struct ClosestPoint {
    double distance_mm = std::numeric_limits<double>::infinity();
    Vec3 point = Vec3::Zero();
    uint32_t triangle = ~0u; ///< ~0 when nothing lies within the bound
};

struct ClosestPair {
    double distance_mm = std::numeric_limits<double>::infinity(); ///< 0 when the surfaces cross
    Vec3 at_a = Vec3::Zero(), at_b = Vec3::Zero();
    bool crossing = false; ///< some triangles pass through each other, beyond touching
};

/// Closest point of triangle abc to p (Ericson, Real-Time Collision Detection, 5.1.5).
Vec3 closest_on_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c);

/// A box tree over a mesh's triangles. Keeps its own copy of the corners; O(n log n) to build, const and thread-safe
/// afterwards.
class DistanceTree {
  public:
    explicit DistanceTree(const TriMesh& mesh);

    /// Nearest place on the surface within `bound`. About log n for nearby points.
    ClosestPoint closest(const Vec3& p, double bound = std::numeric_limits<double>::infinity()) const;
    /// Inside by the number of crossings of rays in three directions (majority); for closed meshes.
    bool inside(const Vec3& p) const;
    /// First crossing of the ray origin + t * direction with t > `from`; triangle ~0 when there is none.
    ClosestPoint first_hit(const Vec3& origin, const Vec3& direction, double from = 0) const;

    bool empty() const { return corners_.empty(); }
    const Box3& box() const { return nodes_.front().box; }

  private:
    friend class PairSearch;
    struct Node {
        Box3 box;
        /// A box that lies along the facets: thin where they are flat, narrow where they are slivers.
        Vec3 centre = Vec3::Zero(), half = Vec3::Zero();
        Eigen::Matrix3d axes = Eigen::Matrix3d::Identity(); ///< its edges' directions, in columns
        double radius = 0;                                  ///< of the ball round it
        uint32_t first = 0, count = 0; ///< leaf: range in order_; inner: children at first and first + 1
        bool leaf = false;
    };
    void build(uint32_t node, uint32_t first, uint32_t count);
    void lay_boxes_along(uint32_t node, uint32_t first, uint32_t count);
    int crossings(const Vec3& p, const Vec3& direction) const;

    /// What bounds the distance of two facets cheaply.
    struct Facet {
        Vec3 centre, normal; ///< unit, or zero
        double radius;       ///< of the ball round the centre
    };
    static Facet facet_of(const std::array<Vec3, 3>& corners);
    std::vector<std::array<Vec3, 3>> corners_; ///< in tree order
    std::vector<Facet> facets_;                ///< of the same
    std::vector<uint32_t> order_;              ///< triangle number of each
    std::vector<Node> nodes_;
};

/// Smallest distance between two surfaces with the places; stops looking above `bound`.
ClosestPair closest_pair(const DistanceTree& a, const DistanceTree& b,
                         double bound = std::numeric_limits<double>::infinity());
/// The same with `a` moved first, without moving its tree; both places are where the moved surfaces are.
ClosestPair closest_pair(const DistanceTree& a, const Transform& move, const DistanceTree& b,
                         double bound = std::numeric_limits<double>::infinity());

} // namespace lp
