#include "shape/mesh_distance.h"
#include <algorithm>
#include <numeric>

namespace lp {
namespace {

constexpr uint32_t leaf_size = 4;
using Corners = std::array<Vec3, 3>;

double box_gap_squared(const Box3& a, const Box3& b) {
    return a.squaredExteriorDistance(b);
}

/// Nearest points of segments p0p1 and q0q1 (Ericson 5.1.9).
double segment_pair(const Vec3& p0, const Vec3& p1, const Vec3& q0, const Vec3& q1, Vec3& on_p, Vec3& on_q) {
    Vec3 d1 = p1 - p0, d2 = q1 - q0, r = p0 - q0;
    double a = d1.squaredNorm(), e = d2.squaredNorm(), f = d2.dot(r), s = 0, t = 0;
    if (a <= 1e-30 && e <= 1e-30) {
        s = t = 0;
    } else if (a <= 1e-30) {
        t = std::clamp(f / e, 0.0, 1.0);
    } else {
        double c = d1.dot(r);
        if (e <= 1e-30) {
            s = std::clamp(-c / a, 0.0, 1.0);
        } else {
            double b = d1.dot(d2), den = a * e - b * b;
            if (den > 1e-14 * a * e) s = std::clamp((b * f - c * e) / den, 0.0, 1.0);
            t = (b * s + f) / e;
            if (t < 0)
                t = 0, s = std::clamp(-c / a, 0.0, 1.0);
            else if (t > 1)
                t = 1, s = std::clamp((b - c) / a, 0.0, 1.0);
        }
    }
    on_p = p0 + s * d1;
    on_q = q0 + t * d2;
    return (on_p - on_q).squaredNorm();
}

/// Where segment pq passes through the inside of triangle t, if it does.
bool segment_through(const Vec3& p, const Vec3& q, const Corners& t, Vec3& at) {
    Vec3 n = (t[1] - t[0]).cross(t[2] - t[0]);
    double dp = n.dot(p - t[0]), dq = n.dot(q - t[0]);
    if ((dp > 0) == (dq > 0) || dp == dq) return false;
    at = p + (q - p) * (dp / (dp - dq));
    for (int k = 0; k < 3; ++k)
        if (n.dot((t[(k + 1) % 3] - t[k]).cross(at - t[k])) < 0) return false;
    return true;
}

/// Depth by which triangles pass through each other along their crossing; 0 when they only meet.
struct TrianglePair {
    double squared;
    Vec3 at_a, at_b;
    bool crossing = false;
};

TrianglePair triangle_pair(const Corners& a, const Corners& b, double stop_squared) {
    TrianglePair best{stop_squared, Vec3::Zero(), Vec3::Zero()};
    auto offer = [&](double d, const Vec3& pa, const Vec3& pb) {
        if (d < best.squared) best = {d, pa, pb, best.crossing};
    };
    for (int k = 0; k < 3; ++k) {
        Vec3 on_b = closest_on_triangle(a[k], b[0], b[1], b[2]);
        offer((a[k] - on_b).squaredNorm(), a[k], on_b);
        Vec3 on_a = closest_on_triangle(b[k], a[0], a[1], a[2]);
        offer((b[k] - on_a).squaredNorm(), on_a, b[k]);
    }
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j) {
            Vec3 pa, pb;
            double d = segment_pair(a[i], a[(i + 1) % 3], b[j], b[(j + 1) % 3], pa, pb);
            offer(d, pa, pb);
        }
    Vec3 at;
    for (int k = 0; k < 3; ++k) {
        const Vec3 &p = a[k], &q = a[(k + 1) % 3], &r = b[k], &s = b[(k + 1) % 3];
        if (segment_through(p, q, b, at) || segment_through(r, s, a, at)) {
            best.squared = 0;
            best.at_a = best.at_b = at;
            // Deeper than rounding: both ends of the segment stand off the other's plane.
            Vec3 n = (b[1] - b[0]).cross(b[2] - b[0]).normalized(), m = (a[1] - a[0]).cross(a[2] - a[0]).normalized();
            double deep_a = std::min(std::fabs(n.dot(p - b[0])), std::fabs(n.dot(q - b[0])));
            double deep_b = std::min(std::fabs(m.dot(r - a[0])), std::fabs(m.dot(s - a[0])));
            if ((segment_through(p, q, b, at) && deep_a > 1e-6) || (segment_through(r, s, a, at) && deep_b > 1e-6))
                best.crossing = true;
        }
    }
    return best;
}

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
}

DistanceTree DistanceTree::moved(const Transform& move) const {
    DistanceTree result = *this;
    for (Corners& t : result.corners_)
        for (Vec3& p : t) p = move * p;
    for (Facet& f : result.facets_) {
        f.centre = move * f.centre;
        f.normal = move.linear() * f.normal;
    }
    // Children stand after their parents: from the back every box finds its children done.
    for (size_t i = result.nodes_.size(); i-- > 0;) {
        Node& node = result.nodes_[i];
        node.box.setEmpty();
        if (node.leaf) {
            for (uint32_t k = node.first; k < node.first + node.count; ++k)
                for (const Vec3& p : result.corners_[k]) node.box.extend(p);
        } else {
            node.box.extend(result.nodes_[node.first].box).extend(result.nodes_[node.first + 1].box);
        }
    }
    return result;
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

/// No two points of the facets are nearer than this: balls round them, and the gap seen along either one's normal,
/// which is exact for facets that face each other.
double DistanceTree::least_apart(const Corners& a, const Facet& fa, const Corners& b, const Facet& fb, double stop) {
    double reach = stop + fa.radius + fb.radius;
    if ((fa.centre - fb.centre).squaredNorm() > reach * reach) return reach;
    auto seen = [](const Facet& from, const Corners& other) {
        double x = from.normal.dot(other[0] - from.centre), y = from.normal.dot(other[1] - from.centre),
               z = from.normal.dot(other[2] - from.centre);
        double low = std::min({x, y, z}), high = std::max({x, y, z});
        return low > 0 ? low : high < 0 ? -high : 0.0;
    };
    double least = seen(fa, b);
    return least > stop ? least : std::max(least, seen(fb, a));
}

/// Depth first, the nearer pair of boxes first: a good bound is found at once, and nothing is queued.
class PairSearch {
  public:
    PairSearch(const DistanceTree& a, const DistanceTree& b, double bound) : a_(a), b_(b) {
        squared_ = bound < 1e150 ? bound * bound : std::numeric_limits<double>::infinity();
    }
    ClosestPair run() {
        visit(0, 0, box_gap_squared(a_.nodes_[0].box, b_.nodes_[0].box));
        if (found_) best_.distance_mm = std::sqrt(squared_);
        return best_;
    }

  private:
    void visit(uint32_t ia, uint32_t ib, double near) {
        // Surfaces that touch are still searched for a real crossing.
        if (best_.crossing || near > squared_ || (found_ && near >= squared_ && squared_ > 0)) return;
        const auto &na = a_.nodes_[ia], &nb = b_.nodes_[ib];
        if (na.leaf && nb.leaf) return leaves(na.first, na.count, nb.first, nb.count);
        bool split_a = !na.leaf && (nb.leaf || na.box.diagonal().squaredNorm() > nb.box.diagonal().squaredNorm());
        uint32_t first = split_a ? na.first : nb.first;
        double one = split_a ? box_gap_squared(a_.nodes_[first].box, nb.box)
                             : box_gap_squared(na.box, b_.nodes_[first].box),
               two = split_a ? box_gap_squared(a_.nodes_[first + 1].box, nb.box)
                             : box_gap_squared(na.box, b_.nodes_[first + 1].box);
        uint32_t nearer = one <= two ? first : first + 1, farther = one <= two ? first + 1 : first;
        split_a ? visit(nearer, ib, std::min(one, two)) : visit(ia, nearer, std::min(one, two));
        split_a ? visit(farther, ib, std::max(one, two)) : visit(ia, farther, std::max(one, two));
    }

    void leaves(uint32_t first_a, uint32_t count_a, uint32_t first_b, uint32_t count_b) {
        double stop = std::sqrt(std::max(squared_, 1e-18));
        for (uint32_t i = first_a; i < first_a + count_a; ++i)
            for (uint32_t j = first_b; j < first_b + count_b; ++j) {
                if (DistanceTree::least_apart(a_.corners_[i], a_.facets_[i], b_.corners_[j], b_.facets_[j], stop) >
                    stop)
                    continue;
                // The tiny margin keeps touching pairs in the search for a crossing.
                TrianglePair pair = triangle_pair(a_.corners_[i], b_.corners_[j], std::max(squared_, 1e-18));
                if (pair.squared >= squared_ && !pair.crossing) continue;
                squared_ = pair.squared;
                stop = std::sqrt(std::max(squared_, 1e-18));
                best_.at_a = pair.at_a;
                best_.at_b = pair.at_b;
                best_.crossing = best_.crossing || pair.crossing;
                found_ = true;
            }
    }

    const DistanceTree &a_, &b_;
    ClosestPair best_;
    double squared_;
    bool found_ = false;
};

ClosestPair closest_pair(const DistanceTree& a, const DistanceTree& b, double bound) {
    if (a.empty() || b.empty()) return {};
    return PairSearch(a, b, bound).run();
}

} // namespace lp
