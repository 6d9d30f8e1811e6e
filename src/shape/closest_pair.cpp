// The smallest distance between two surfaces: both trees are searched together, one of them where it was moved to.
#include "shape/mesh_distance.h"
#include <algorithm>

namespace lp {
namespace {

using Corners = std::array<Vec3, 3>;

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

/// Depth first, the nearer pair of nodes first: a good bound is found at once, and nothing is queued. Nodes of `a` are
/// moved as they are met: most of a body is never near the other.
class PairSearch {
  public:
    PairSearch(const DistanceTree& a, const Transform& move, const DistanceTree& b, double bound)
        : a_(a), b_(b), move_(move), moved_(!move.isApprox(Transform::Identity(), 1e-15)) {
        squared_ = bound < 1e150 ? bound * bound : std::numeric_limits<double>::infinity();
        stop_ = std::sqrt(squared_);
    }
    ClosestPair run() {
        Moved root = moved(0);
        visit(root, 0, apart(root, b_.nodes_[0]));
        if (found_) best_.distance_mm = std::sqrt(squared_);
        return best_;
    }

  private:
    using Node = DistanceTree::Node;
    using Facet = DistanceTree::Facet;
    struct Moved {
        const Node* node;
        Vec3 centre;
        Eigen::Matrix3d axes;
    };
    Moved moved(uint32_t index) const {
        const Node& n = a_.nodes_[index];
        if (!moved_) return {&n, n.centre, n.axes};
        return {&n, move_ * n.centre, move_.linear() * n.axes};
    }

    /// No two points of the nodes are nearer than this: balls, upright boxes, and the boxes along the facets seen along
    /// the edges of either.
    double apart(const Moved& a, const Node& b) const {
        Vec3 way = b.centre - a.centre;
        double least = way.norm() - a.node->radius - b.radius;
        if (least > stop_) return least;
        if (moved_)
            least = std::max(least, b.box.exteriorDistance(a.centre) - a.node->radius);
        else
            least = std::max(least, a.node->box.exteriorDistance(b.box));
        if (least > stop_) return least;
        Eigen::Matrix3d between = (a.axes.transpose() * b.axes).cwiseAbs();
        Vec3 along_a = (a.axes.transpose() * way).cwiseAbs() - a.node->half - between * b.half,
             along_b = (b.axes.transpose() * way).cwiseAbs() - b.half - between.transpose() * a.node->half;
        return std::max({least, along_a.maxCoeff(), along_b.maxCoeff(), 0.0});
    }

    void visit(const Moved& a, uint32_t ib, double near) {
        // Surfaces that touch are still searched for a real crossing.
        if (best_.crossing || near > stop_ + 1e-9 || (found_ && near >= stop_ && squared_ > 0)) return;
        const Node& nb = b_.nodes_[ib];
        if (a.node->leaf && nb.leaf) return leaves(*a.node, nb);
        if (!a.node->leaf && (nb.leaf || a.node->radius > nb.radius)) {
            Moved first = moved(a.node->first), second = moved(a.node->first + 1);
            double one = apart(first, nb), two = apart(second, nb);
            visit(one <= two ? first : second, ib, std::min(one, two));
            visit(one <= two ? second : first, ib, std::max(one, two));
        } else {
            double one = apart(a, b_.nodes_[nb.first]), two = apart(a, b_.nodes_[nb.first + 1]);
            visit(a, one <= two ? nb.first : nb.first + 1, std::min(one, two));
            visit(a, one <= two ? nb.first + 1 : nb.first, std::max(one, two));
        }
    }

    /// The same bound for two facets, where the gap seen along a normal is exact when they face each other.
    static double least_apart(const Corners& a, const Facet& fa, const Corners& b, const Facet& fb, double stop) {
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

    void leaves(const Node& a, const Node& b) {
        double stop = std::sqrt(std::max(squared_, 1e-18));
        for (uint32_t i = a.first; i < a.first + a.count; ++i) {
            Facet fa = a_.facets_[i];
            Corners ta = a_.corners_[i];
            if (moved_) {
                fa.centre = move_ * fa.centre;
                fa.normal = move_.linear() * fa.normal;
                for (Vec3& p : ta) p = move_ * p;
            }
            for (uint32_t j = b.first; j < b.first + b.count; ++j) {
                if (least_apart(ta, fa, b_.corners_[j], b_.facets_[j], stop) > stop) continue;
                // The tiny margin keeps touching pairs in the search for a crossing.
                TrianglePair pair = triangle_pair(ta, b_.corners_[j], std::max(squared_, 1e-18));
                if (pair.squared >= squared_ && !pair.crossing) continue;
                squared_ = pair.squared;
                stop_ = std::sqrt(squared_);
                stop = std::max(stop_, 1e-9);
                best_.at_a = pair.at_a;
                best_.at_b = pair.at_b;
                best_.crossing = best_.crossing || pair.crossing;
                found_ = true;
            }
        }
    }

    const DistanceTree &a_, &b_;
    Transform move_;
    bool moved_;
    ClosestPair best_;
    double squared_, stop_;
    bool found_ = false;
};

ClosestPair closest_pair(const DistanceTree& a, const Transform& move, const DistanceTree& b, double bound) {
    if (a.empty() || b.empty()) return {};
    return PairSearch(a, move, b, bound).run();
}

ClosestPair closest_pair(const DistanceTree& a, const DistanceTree& b, double bound) {
    return closest_pair(a, Transform::Identity(), b, bound);
}

} // namespace lp
