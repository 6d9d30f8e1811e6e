#include "shape/mesh_distance.h"
#include <algorithm>
#include <numeric>

namespace lp {
namespace {

constexpr uint32_t leaf_size = 4;
using Corners = std::array<Vec3, 3>;

} // namespace

Vec3 closest_on_triangle(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
    Vec3 ab = b - a, ac = c - a, ap = p - a;
    double d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0 && d2 <= 0) return a;
    Vec3 bp = p - b;
    double d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0 && d4 <= d3) return b;
    double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return a + ab * (d1 == d3 ? 0 : d1 / (d1 - d3));
    Vec3 cp = p - c;
    double d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0 && d5 <= d6) return c;
    double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return a + ac * (d2 == d6 ? 0 : d2 / (d2 - d6));
    double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) {
        double den = (d4 - d3) + (d5 - d6);
        return b + (c - b) * (den == 0 ? 0 : (d4 - d3) / den);
    }
    double den = 1 / (va + vb + vc);
    return a + ab * (vb * den) + ac * (vc * den);
}

DistanceTree::DistanceTree(const TriMesh& mesh) {
    order_.resize(mesh.triangles.size());
    std::iota(order_.begin(), order_.end(), 0u);
    corners_.resize(order_.size());
    for (size_t i = 0; i < order_.size(); ++i) corners_[i] = {mesh.corner(i, 0), mesh.corner(i, 1), mesh.corner(i, 2)};
    nodes_.reserve(order_.size());
    nodes_.emplace_back();
    if (!order_.empty()) build(0, 0, uint32_t(order_.size()));
    std::vector<Corners> sorted(corners_.size());
    for (size_t i = 0; i < order_.size(); ++i) sorted[i] = corners_[order_[i]];
    corners_.swap(sorted);
    facets_.reserve(corners_.size());
    for (const Corners& t : corners_) facets_.push_back(facet_of(t));
    if (!order_.empty()) lay_boxes_along(0, 0, uint32_t(order_.size()));
}

/// Upright boxes stand off a slanting surface; boxes that lie along it do not. Only small pieces are flat enough for
/// that.
void DistanceTree::lay_boxes_along(uint32_t index, uint32_t first, uint32_t count) {
    constexpr uint32_t flat_enough = 64;
    Node& node = nodes_[index];
    if (!node.leaf) {
        lay_boxes_along(node.first, first, count / 2);
        lay_boxes_along(node.first + 1, first + count / 2, count - count / 2);
    }
    node.centre = node.box.center();
    node.half = node.box.sizes() / 2;
    node.radius = node.half.norm();
    if (count > flat_enough) return;
    Vec3 normal = Vec3::Zero(), middle = Vec3::Zero();
    for (uint32_t i = first; i < first + count; ++i) {
        normal += facets_[i].normal * facets_[i].radius;
        middle += facets_[i].centre / count;
    }
    double size = normal.norm();
    if (size < 1e-30) return;
    normal /= size;
    // Across the normal, along the longer way the corners are spread.
    Vec3 e = normal.unitOrthogonal(), f = normal.cross(e);
    double ee = 0, ef = 0, ff = 0;
    for (uint32_t i = first; i < first + count; ++i)
        for (const Vec3& p : corners_[i]) {
            double x = e.dot(p - middle), y = f.dot(p - middle);
            ee += x * x, ef += x * y, ff += y * y;
        }
    double turn = 0.5 * std::atan2(2 * ef, ee - ff);
    Eigen::Matrix3d axes;
    axes.col(0) = normal;
    axes.col(1) = std::cos(turn) * e + std::sin(turn) * f;
    axes.col(2) = normal.cross(axes.col(1));
    Box3 box;
    for (uint32_t i = first; i < first + count; ++i)
        for (const Vec3& p : corners_[i]) box.extend(axes.transpose() * p);
    Vec3 half = box.sizes() / 2;
    auto surface = [](const Vec3& h) { return h.x() * h.y() + h.y() * h.z() + h.z() * h.x(); };
    if (surface(half) >= surface(node.half)) return;
    node.axes = axes;
    node.half = half;
    node.centre = axes * box.center();
    node.radius = half.norm();
}

void DistanceTree::build(uint32_t node, uint32_t first, uint32_t count) {
    Box3 box, centres;
    for (uint32_t i = first; i < first + count; ++i) {
        const Corners& t = corners_[order_[i]];
        for (const Vec3& p : t) box.extend(p);
        centres.extend((t[0] + t[1] + t[2]) / 3);
    }
    nodes_[node].box = box;
    if (count <= leaf_size) {
        nodes_[node].leaf = true;
        nodes_[node].first = first;
        nodes_[node].count = count;
        return;
    }
    int axis;
    centres.sizes().maxCoeff(&axis);
    uint32_t half = count / 2;
    std::nth_element(order_.begin() + first, order_.begin() + first + half, order_.begin() + first + count,
                     [&](uint32_t x, uint32_t y) {
                         const Corners &s = corners_[x], &t = corners_[y];
                         return s[0][axis] + s[1][axis] + s[2][axis] < t[0][axis] + t[1][axis] + t[2][axis];
                     });
    auto child = uint32_t(nodes_.size());
    nodes_[node].first = child;
    nodes_.emplace_back();
    nodes_.emplace_back();
    build(child, first, half);
    build(child + 1, first + half, count - half);
}

ClosestPoint DistanceTree::closest(const Vec3& p, double bound) const {
    ClosestPoint best;
    double best_squared = bound * bound;
    if (empty()) return best;
    std::vector<std::pair<double, uint32_t>> stack{{nodes_[0].box.squaredExteriorDistance(p), 0}};
    while (!stack.empty()) {
        auto [near, index] = stack.back();
        stack.pop_back();
        if (near >= best_squared) continue;
        const Node& node = nodes_[index];
        if (node.leaf) {
            for (uint32_t i = node.first; i < node.first + node.count; ++i) {
                Vec3 q = closest_on_triangle(p, corners_[i][0], corners_[i][1], corners_[i][2]);
                double d = (p - q).squaredNorm();
                if (d < best_squared) {
                    best_squared = d;
                    best.point = q;
                    best.triangle = order_[i];
                }
            }
        } else {
            double a = nodes_[node.first].box.squaredExteriorDistance(p),
                   b = nodes_[node.first + 1].box.squaredExteriorDistance(p);
            if (a < b)
                stack.push_back({b, node.first + 1}), stack.push_back({a, node.first});
            else
                stack.push_back({a, node.first}), stack.push_back({b, node.first + 1});
        }
    }
    if (best.triangle != ~0u) best.distance_mm = std::sqrt(best_squared);
    return best;
}

namespace {
bool ray_meets_box(const Box3& box, const Vec3& p, const Vec3& d, double limit) {
    double low = 0, high = limit;
    for (int k = 0; k < 3; ++k) {
        if (std::fabs(d[k]) < 1e-300) {
            if (p[k] < box.min()[k] || p[k] > box.max()[k]) return false;
            continue;
        }
        double t0 = (box.min()[k] - p[k]) / d[k], t1 = (box.max()[k] - p[k]) / d[k];
        if (t0 > t1) std::swap(t0, t1);
        low = std::max(low, t0);
        high = std::min(high, t1);
        if (low > high) return false;
    }
    return true;
}

/// Distance along the ray to triangle t, or a negative number (Moeller and Trumbore).
double ray_triangle(const Vec3& p, const Vec3& d, const Corners& t) {
    Vec3 e1 = t[1] - t[0], e2 = t[2] - t[0], h = d.cross(e2);
    double det = e1.dot(h);
    if (det == 0) return -1;
    Vec3 s = p - t[0];
    double u = s.dot(h) / det;
    if (u < 0 || u > 1) return -1;
    Vec3 q = s.cross(e1);
    double v = d.dot(q) / det;
    if (v < 0 || u + v > 1) return -1;
    return e2.dot(q) / det;
}
} // namespace

int DistanceTree::crossings(const Vec3& p, const Vec3& d) const {
    int count = 0;
    std::vector<uint32_t> stack{0};
    while (!stack.empty()) {
        const Node& node = nodes_[stack.back()];
        stack.pop_back();
        if (!ray_meets_box(node.box, p, d, 1e300)) continue;
        if (node.leaf) {
            for (uint32_t i = node.first; i < node.first + node.count; ++i)
                if (ray_triangle(p, d, corners_[i]) > 0) ++count;
        } else {
            stack.push_back(node.first);
            stack.push_back(node.first + 1);
        }
    }
    return count;
}

bool DistanceTree::inside(const Vec3& p) const {
    if (empty() || !nodes_[0].box.contains(p)) return false;
    // Three odd directions: a ray through an edge miscounts, hardly ever in two of them.
    int odd = 0;
    for (const Vec3& d : {Vec3(0.5377, 0.2711, 0.7983), Vec3(-0.3391, 0.8123, 0.4747), Vec3(0.6113, -0.5417, -0.5769)})
        odd += crossings(p, d) & 1;
    return odd >= 2;
}

ClosestPoint DistanceTree::first_hit(const Vec3& origin, const Vec3& direction, double from) const {
    ClosestPoint best;
    if (empty()) return best;
    std::vector<uint32_t> stack{0};
    while (!stack.empty()) {
        const Node& node = nodes_[stack.back()];
        stack.pop_back();
        if (!ray_meets_box(node.box, origin, direction, best.distance_mm)) continue;
        if (!node.leaf) {
            stack.push_back(node.first);
            stack.push_back(node.first + 1);
            continue;
        }
        for (uint32_t i = node.first; i < node.first + node.count; ++i) {
            double t = ray_triangle(origin, direction, corners_[i]);
            if (t > from && t < best.distance_mm) best = {t, origin + t * direction, order_[i]};
        }
    }
    return best;
}

DistanceTree::Facet DistanceTree::facet_of(const Corners& t) {
    Facet f;
    f.centre = (t[0] + t[1] + t[2]) / 3;
    f.radius = std::sqrt(
        std::max({(t[0] - f.centre).squaredNorm(), (t[1] - f.centre).squaredNorm(), (t[2] - f.centre).squaredNorm()}));
    f.normal = (t[1] - t[0]).cross(t[2] - t[0]);
    double size = f.normal.norm();
    f.normal = size > 1e-30 ? Vec3(f.normal / size) : Vec3(Vec3::Zero());
    return f;
}

} // namespace lp
