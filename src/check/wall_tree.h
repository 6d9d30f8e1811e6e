// Facets in a tree of boxes, for rays and for the nearest facet that looks a given way: what inscribed balls ask for.
// Single precision; the mesh should lie near the origin.
#pragma once
#include "shape/tri_mesh.h"
#include <Eigen/Core>
#include <algorithm>
#include <array>
#include <atomic>
#include <cstdint>
#include <limits>
#include <vector>

namespace lp {

using Vec3f = Eigen::Vector3f;

/// Triangles in single precision.
struct WallMesh {
    std::vector<Vec3f> vertices;
    std::vector<std::array<uint32_t, 3>> triangles;
    const Vec3f& corner(size_t i, size_t k) const { return vertices[triangles[i][k]]; }
    /// Outward, twice the area long.
    Vec3f area2(size_t i) const { return (corner(i, 1) - corner(i, 0)).cross(corner(i, 2) - corner(i, 0)); }
    Vec3f middle(size_t i) const { return (corner(i, 0) + corner(i, 1) + corner(i, 2)) / 3; }
};

/// Bits of WallTree's `sharp`.
inline constexpr uint8_t sharp_concave = 1, sharp_convex = 2;

/// The mesh as seen from `origin`, which should lie within it.
WallMesh wall_mesh(const TriMesh& mesh, const Vec3& origin);

/// Median splits, up to four facets a leaf. A node also keeps a slab across its mean normal (a round surface touches a
/// ball all along: upright boxes alone would leave nothing out there) and how far its normals spread.
class WallTree {
  public:
    static constexpr uint32_t none = ~0u;
    struct Near {
        Vec3f at = Vec3f::Zero();
        uint32_t facet = none;
    };

    /// `sharp`: which facets have sharp edges; their points may be touched whatever way the facet looks.
    WallTree(const WallMesh& mesh, const std::vector<uint8_t>& sharp);

    /// The first facet met between `from` and `to` along a unit direction (any one of them when `any`), and where.
    struct Hit {
        float t = std::numeric_limits<float>::infinity();
        uint32_t facet = none;
    };
    Hit ray(const Vec3f& origin, const Vec3f& direction, float from, float to, bool any = false) const;

    /// Nearest point within `bound` of a place, of the facets whose normal is within 60 degrees of `looks` or that have
    /// a sharp edge of kind `sharp`, as far as accept(point, facet) takes it.
    template <class Accept>
    Near nearest(const Vec3f& place, float bound, const Vec3f& looks, uint8_t sharp, Accept accept) const {
        Near best;
        float best2 = bound * bound;
        struct Open {
            float distance2;
            uint32_t node;
        };
        std::array<Open, 96> open;
        size_t count = 0;
        open[count++] = {0, 0};
        const Vec4f place4 = four(place, 0), looks4 = four(looks, 0);
        while (count) {
            const Open next = open[--count];
            if (next.distance2 >= best2) continue;
            const Node& node = nodes_[next.node];
            if (node.count) {
                for (uint32_t i = node.first; i < node.first + node.count; ++i) {
                    if (look_[i].dot(looks) < 0.5f && !(sharp_[i] & sharp)) continue;
                    const Vec3f q = closest_point(place, corners_[i]);
                    const float d = (q - place).squaredNorm();
                    if (d >= best2 || !accept(q, order[i])) continue;
                    best2 = d;
                    best = {q, order[i]};
                }
                continue;
            }
            float d[2];
            for (uint32_t k = 0; k < 2; ++k) d[k] = distance2(nodes_[node.first + k], place4, looks4, sharp, best2);
            const uint32_t far = d[0] < d[1] ? 1 : 0;
            if (d[far] < best2) open[count++] = {d[far], node.first + far};
            if (d[1 - far] < best2) open[count++] = {d[1 - far], node.first + 1 - far};
        }
        return best;
    }

    std::vector<Vec3f> normal;   ///< of each facet, unit
    std::vector<uint32_t> order; ///< facets as they stand in the tree: neighbours in space are neighbours here

  private:
    using Vec4f = Eigen::Vector4f; ///< four at a time are as fast as one
    struct alignas(64) Node {
        Vec4f low, high; ///< of the box; the fourth is endless
        Vec4f mean;      ///< of the normals; the fourth is the cosine below which none of them counts
        float slab_low, slab_high;
        uint32_t first = 0; ///< of its facets in `order`, or of its two children
        uint16_t count = 0; ///< of facets; 0 for a node with children
        uint8_t sharp = 0;  ///< of any facet in it
    };
    struct Boxes;
    using Corners = std::array<Vec3f, 3>;
    void build(const WallMesh& mesh, const std::vector<uint8_t>& sharp, Boxes& boxes, uint32_t at, uint32_t first,
               uint32_t count);
    static Vec3f closest_point(const Vec3f& place, const Corners& corners);
    /// Lower bound of the squared distance; infinite when nothing in the node can count.
    static Vec4f four(const Vec3f& v, float fourth) { return {v.x(), v.y(), v.z(), fourth}; }
    /// The fourth of `place` and of `looks` is 0.
    static float distance2(const Node& node, const Vec4f& place, const Vec4f& looks, uint8_t sharp, float within2) {
        constexpr float infinite = std::numeric_limits<float>::infinity();
        const float box = (node.low - place).cwiseMax(place - node.high).cwiseMax(0.0f).squaredNorm();
        if (box >= within2) return infinite;
        if (!(node.sharp & sharp) && node.mean.dot(looks) < node.mean[3]) return infinite;
        const float height = node.mean.dot(place);
        const float off = std::max({0.0f, node.slab_low - height, height - node.slab_high});
        return std::max(box, off * off);
    }

    std::vector<Node> nodes_;
    std::atomic<uint32_t> used_{1};
    // In tree order.
    std::vector<Vec3f> look_;
    std::vector<uint8_t> sharp_;
    std::vector<Corners> corners_;
};

} // namespace lp
