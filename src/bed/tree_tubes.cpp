#include "bed/tree_tubes.h"

namespace lp {
namespace {

double from_segment(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 d = b - a;
    const double l = d.squaredNorm(), t = l > 0 ? std::clamp((p - a).dot(d) / l, 0.0, 1.0) : 0;
    return (a + t * d - p).norm();
}

double between_segments(const Vec2& a, const Vec2& b, const Vec2& c, const Vec2& d) {
    auto side = [](const Vec2& o, const Vec2& x, const Vec2& y) {
        return (x - o).x() * (y - o).y() - (x - o).y() * (y - o).x();
    };
    if (side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0) return 0;
    return std::min({from_segment(a, c, d), from_segment(b, c, d), from_segment(c, a, b), from_segment(d, a, b)});
}

/// Discs of a tube at a share of the way down, joined in twos.
struct Slice {
    struct Side {
        Vec2 from, to;
        double radius;
    };
    std::vector<Side> sides;
    Slice(const std::vector<TreeNode>& nodes, const Tube& tube, double t) {
        auto at = [&](size_t i) -> Vec2 { return ((1 - t) * nodes[size_t(tube.above[i])].at + t * tube.to).head<2>(); };
        auto radius = [&](size_t i) { return (1 - t) * nodes[size_t(tube.above[i])].radius + t * tube.radius; };
        const size_t n = tube.above.size();
        if (n == 1) sides.push_back({at(0), at(0), radius(0)});
        for (size_t i = 0; i < n; ++i)
            for (size_t j = i + 1; j < n; ++j) sides.push_back({at(i), at(j), std::max(radius(i), radius(j))});
    }
};

} // namespace

double gap_between(const std::vector<TreeNode>& nodes, const Tube& a, const Tube& b) {
    double least = std::numeric_limits<double>::infinity();
    for (double t : {0.0, 0.25, 0.5, 0.75, 1.0}) {
        const Slice mine(nodes, a, t), other(nodes, b, t);
        for (const auto& p : mine.sides)
            for (const auto& q : other.sides)
                least = std::min(least, between_segments(p.from, p.to, q.from, q.to) - p.radius - q.radius);
    }
    return least;
}

} // namespace lp
