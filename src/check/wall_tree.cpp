#include "check/wall_tree.h"
#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>
#include <tbb/parallel_for.h>
#include <tbb/parallel_invoke.h>

namespace lp {

constexpr float infinite = std::numeric_limits<float>::infinity();

struct WallTree::Boxes {
    std::vector<Vec3f> low, high;
    Vec3f middle2(uint32_t i) const { return low[i] + high[i]; }
};

WallMesh wall_mesh(const TriMesh& mesh, const Vec3& origin) {
    WallMesh out;
    out.vertices.reserve(mesh.vertices.size());
    for (const Vec3& v : mesh.vertices) out.vertices.push_back((v - origin).cast<float>());
    out.triangles.assign(mesh.triangles.begin(), mesh.triangles.end());
    return out;
}

WallTree::WallTree(const WallMesh& mesh, const std::vector<uint8_t>& sharp) {
    const auto n = uint32_t(mesh.triangles.size());
    order.resize(n);
    std::iota(order.begin(), order.end(), 0u);
    normal.resize(n);
    Boxes boxes;
    boxes.low.resize(n);
    boxes.high.resize(n);
    tbb::parallel_for(0u, n, [&](uint32_t i) {
        boxes.low[i] = mesh.corner(i, 0).cwiseMin(mesh.corner(i, 1)).cwiseMin(mesh.corner(i, 2));
        boxes.high[i] = mesh.corner(i, 0).cwiseMax(mesh.corner(i, 1)).cwiseMax(mesh.corner(i, 2));
        normal[i] = mesh.area2(i).stableNormalized();
    });
    nodes_.resize(2 * size_t(n) + 2);
    build(mesh, sharp, boxes, 0, 0, n);
    look_.resize(n);
    sharp_.resize(n);
    corners_.resize(n);
    tbb::parallel_for(0u, n, [&](uint32_t i) {
        const uint32_t f = order[i];
        look_[i] = normal[f];
        sharp_[i] = sharp[f];
        corners_[i] = {mesh.corner(f, 0), mesh.corner(f, 1), mesh.corner(f, 2)};
    });
}

void WallTree::build(const WallMesh& mesh, const std::vector<uint8_t>& sharp, Boxes& boxes, uint32_t at, uint32_t first,
                     uint32_t count) {
    Vec3f low = Vec3f::Constant(infinite), high = -low, middle_low = low, middle_high = high, sum = Vec3f::Zero();
    Node& node = nodes_[at];
    for (uint32_t i = first; i < first + count; ++i) {
        const uint32_t f = order[i];
        low = low.cwiseMin(boxes.low[f]);
        high = high.cwiseMax(boxes.high[f]);
        middle_low = middle_low.cwiseMin(boxes.middle2(f));
        middle_high = middle_high.cwiseMax(boxes.middle2(f));
        sum += normal[f];
        node.sharp |= sharp[f];
    }
    const Vec3f mean = sum.stableNormalized();
    float cull = -2;
    node.slab_low = -infinite;
    node.slab_high = infinite;
    if (count <= 1024) {
        float spread = 1;
        node.slab_low = infinite;
        node.slab_high = -infinite;
        for (uint32_t i = first; i < first + count; ++i) {
            spread = std::min(spread, normal[order[i]].dot(mean));
            for (size_t k = 0; k < 3; ++k) {
                const float height = mean.dot(mesh.corner(order[i], k));
                node.slab_low = std::min(node.slab_low, height);
                node.slab_high = std::max(node.slab_high, height);
            }
        }
        // No facet in it looks within 60 degrees of a direction farther from the mean than this.
        constexpr auto pi = std::numbers::pi_v<float>;
        const float widest = pi / 3 + std::acos(std::clamp(spread, -1.0f, 1.0f));
        if (widest < pi) cull = std::cos(widest) - 1e-5f;
    }
    node.low = four(low, -infinite);
    node.high = four(high, infinite);
    node.mean = four(mean, cull);
    if (count <= 4) {
        node.first = first;
        node.count = uint16_t(count);
        return;
    }
    Eigen::Index axis = 0;
    (middle_high - middle_low).maxCoeff(&axis);
    const uint32_t half = count / 2;
    std::nth_element(order.begin() + first, order.begin() + first + half, order.begin() + first + count,
                     [&](uint32_t a, uint32_t b) { return boxes.middle2(a)[axis] < boxes.middle2(b)[axis]; });
    const uint32_t child = used_.fetch_add(2);
    node.first = child;
    auto left = [&, child, first, half] { build(mesh, sharp, boxes, child, first, half); };
    auto right = [&, child, first, half] { build(mesh, sharp, boxes, child + 1, first + half, count - half); };
    if (count > 4096) {
        tbb::parallel_invoke(left, right);
    } else {
        left();
        right();
    }
}

/// Ericson, Real-Time Collision Detection (2005), 5.1.5.
Vec3f WallTree::closest_point(const Vec3f& p, const Corners& t) {
    const auto& [a, b, c] = t;
    const Vec3f ab = b - a, ac = c - a, ap = p - a;
    const float d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0 && d2 <= 0) return a;
    const Vec3f bp = p - b;
    const float d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0 && d4 <= d3) return b;
    const float vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * (d1 == d3 ? 0 : d1 / (d1 - d3));
    const Vec3f cp = p - c;
    const float d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0 && d5 <= d6) return c;
    const float vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * (d2 == d6 ? 0 : d2 / (d2 - d6));
    const float va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        const float e = (d4 - d3) + (d5 - d6);
        return b + (c - b) * (e == 0 ? 0 : (d4 - d3) / e);
    }
    const float e = 1 / (va + vb + vc);
    return a + ab * (vb * e) + ac * (vc * e);
}

WallTree::Hit WallTree::ray(const Vec3f& origin, const Vec3f& direction, float from, float to, bool any) const {
    Hit hit;
    hit.t = to;
    // No direction is quite along an axis: nothing times endless would be no number.
    const auto apart_from_0 = [](float d) { return std::fabs(d) > 1e-20f ? d : 1e-20f; };
    const Vec4f from4 = four(origin, 0), inverse4 = four(direction.unaryExpr(apart_from_0).cwiseInverse(), 1);
    std::array<uint32_t, 96> open;
    size_t count = 0;
    open[count++] = 0;
    while (count) {
        const Node& node = nodes_[open[--count]];
        const Vec4f a = (node.low - from4).cwiseProduct(inverse4), b = (node.high - from4).cwiseProduct(inverse4);
        const float enters = std::max(from, a.cwiseMin(b).maxCoeff()),
                    leaves = std::min(hit.t, a.cwiseMax(b).minCoeff());
        if (!(enters <= leaves * 1.000002f)) continue;
        if (!node.count) { // the nearer child last: it is looked at first
            const Node &left = nodes_[node.first], &right = nodes_[node.first + 1];
            Eigen::Index axis = 0;
            direction.cwiseAbs().maxCoeff(&axis);
            const bool left_nearer =
                (left.low[axis] + left.high[axis] < right.low[axis] + right.high[axis]) == (direction[axis] > 0);
            open[count++] = node.first + (left_nearer ? 1 : 0);
            open[count++] = node.first + (left_nearer ? 0 : 1);
            continue;
        }
        for (uint32_t i = node.first; i < node.first + node.count; ++i) { // Moeller and Trumbore, 1997
            const Corners& t = corners_[i];
            const Vec3f e1 = t[1] - t[0], e2 = t[2] - t[0], p = direction.cross(e2);
            const float det = e1.dot(p);
            if (det == 0) continue;
            const Vec3f s = origin - t[0];
            const float u = s.dot(p) / det;
            if (u < -1e-6f || u > 1 + 1e-6f) continue;
            const Vec3f q = s.cross(e1);
            const float v = direction.dot(q) / det;
            if (v < -1e-6f || u + v > 1 + 1e-6f) continue;
            const float w = e2.dot(q) / det;
            if (!(w > from && w < hit.t)) continue;
            hit = {w, order[i]};
            if (any) return hit;
        }
    }
    return hit;
}

} // namespace lp
