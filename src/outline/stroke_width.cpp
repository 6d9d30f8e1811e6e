#include "outline/stroke_width.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <numbers>

namespace lp {
namespace {

struct Place {
    Vec2 at, in;        ///< on the outline; into the region
    double share = 0;   ///< of the outline's length that it stands for
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
        const Place* touched = nullptr;
        for (const Place& q : places) {
            const Vec2 way = q.at - p.at;
            const double ahead = way.dot(p.in), square = way.squaredNorm();
            if (ahead <= 1e-9 || square >= 2 * ahead * radius) continue;
            radius = square / (2 * ahead);
            touched = &q;
        }
        if (!touched || touched->in.dot(p.in) > faces) continue;
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
