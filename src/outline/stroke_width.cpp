#include "outline/stroke_width.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace lp {
namespace {

struct Place {
    Vec2 at, in;      ///< on the outline; into the region
    double share = 0; ///< of the outline's length that it stands for
};

/// Evenly spread along all loops; the region lies on the left of each.
std::vector<Place> places_of(const FlatRegion& region) {
    double length = 0;
    std::vector<const BoundaryLoop*> loops{&region.outer};
    for (const BoundaryLoop& hole : region.holes) loops.push_back(&hole);
    for (const BoundaryLoop* loop : loops)
        for (const BoundaryCurve& b : *loop) length += b.curve.length();
    constexpr size_t most_places = 1200;
    const double step = std::max(length / double(most_places), 0.02);
    std::vector<Place> places;
    for (const BoundaryLoop* loop : loops)
        for (const BoundaryCurve& b : *loop) {
            const double its = b.curve.length();
            const auto count = std::max<size_t>(1, size_t(std::ceil(its / step)));
            for (size_t i = 0; i < count; ++i) {
                const double t = (double(i) + 0.5) / double(count) * b.curve.end();
                const Vec2 along = b.curve.derivative(t);
                if (!(along.norm() > 1e-12)) continue;
                places.push_back({b.curve.at(t), Vec2(-along.y(), along.x()).normalized(), its / double(count)});
            }
        }
    return places;
}

} // namespace

std::optional<double> finest_stroke(const FlatRegion& region) {
    const std::vector<Place> places = places_of(region);
    static const double faces = -std::cos(std::numbers::pi / 4); // within 45 degrees of the opposite way
    std::vector<std::pair<double, double>> widths;               // and what of the outline has them
    double facing = 0, all = 0;
    for (const Place& p : places) {
        all += p.share;
        double radius = std::numeric_limits<double>::infinity();
        auto through = [&](const Place& q) { // the circle that touches at p and passes through q
            const Vec2 way = q.at - p.at;
            const double ahead = way.dot(p.in);
            return ahead > 1e-9 ? way.squaredNorm() / (2 * ahead) : std::numeric_limits<double>::infinity();
        };
        for (const Place& q : places) radius = std::min(radius, through(q));
        // Of all it touches, a round outline many, what faces it most.
        double most = 1;
        constexpr double near = 1.002;
        for (const Place& q : places)
            if (through(q) <= near * radius) most = std::min(most, q.in.dot(p.in));
        if (most > faces) continue;
        widths.emplace_back(2 * radius, p.share);
        facing += p.share;
    }
    constexpr double least_facing = 0.15, left_out = 0.05;
    if (!(facing > least_facing * all)) return std::nullopt;
    std::sort(widths.begin(), widths.end());
    double passed = 0;
    for (const auto& [width, share] : widths)
        if ((passed += share) >= left_out * facing) return width;
    return widths.back().first;
}

} // namespace lp
