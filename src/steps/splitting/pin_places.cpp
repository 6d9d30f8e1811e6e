#include "steps/splitting/pin_places.h"
#include "mesh/cross_section.h"
#include <algorithm>

namespace lp {
namespace {

using Polygons = std::vector<std::vector<Vec2>>;

/// Distance to the outline where the place is inside, negative outside.
double depth_inside(const Polygons& polygons, const Vec2& p) {
    double nearest = 1e300;
    bool inside = false;
    for (const auto& polygon : polygons)
        for (size_t i = 0, j = polygon.size() - 1; i < polygon.size(); j = i++) {
            const Vec2 &a = polygon[j], &b = polygon[i];
            const Vec2 along = b - a;
            const double length = along.squaredNorm();
            const double t = length > 0 ? std::clamp((p - a).dot(along) / length, 0.0, 1.0) : 0;
            nearest = std::min(nearest, (p - a - t * along).norm());
            if ((a.y() > p.y()) != (b.y() > p.y()) && p.x() < a.x() + along.x() * (p.y() - a.y()) / along.y())
                inside = !inside;
        }
    return inside ? nearest : -nearest;
}

} // namespace

std::vector<Vec2> pin_places(const TriMesh& mesh, const Transform& plane, const PinRoom& room, size_t count,
                             double* widest_mm) {
    std::vector<Polygons> sections;
    for (double share : {0.0, -1.0, -0.5, 0.5, 1.0}) {
        Transform at = plane;
        at.translate(Vec3(0, 0, share * room.deep_mm));
        sections.push_back(cross_section(mesh, at));
    }
    Eigen::AlignedBox2d box;
    for (const auto& polygon : sections.front())
        for (const Vec2& p : polygon) box.extend(p);
    double widest = 0;
    std::vector<std::pair<double, Vec2>> places; // how deep inside, where
    constexpr int most_steps = 60;
    const double step = box.isEmpty() ? 1 : std::max(0.25, box.sizes().maxCoeff() / most_steps);
    if (!box.isEmpty())
        for (double x = box.center().x() - std::floor(box.sizes().x() / 2 / step) * step; x <= box.max().x(); x += step)
            for (double y = box.center().y() - std::floor(box.sizes().y() / 2 / step) * step; y <= box.max().y();
                 y += step) {
                double depth = 1e300;
                for (const Polygons& section : sections)
                    depth = depth > widest || depth >= room.reach_mm
                                ? std::min(depth, depth_inside(section, Vec2(x, y)))
                                : depth;
                widest = std::max(widest, depth);
                if (depth >= room.reach_mm) places.emplace_back(depth, Vec2(x, y));
            }
    if (widest_mm) *widest_mm = widest;
    std::vector<Vec2> chosen;
    if (places.empty() || count == 0) return chosen;
    const auto deepest =
        std::max_element(places.begin(), places.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
    if (count == 1) return {deepest->second};
    // The furthest from the deepest, and the furthest from that: nearly the two furthest of all.
    auto furthest = [&](auto distance) {
        return std::max_element(places.begin(), places.end(),
                                [&](const auto& a, const auto& b) { return distance(a.second) < distance(b.second); })
            ->second;
    };
    chosen.push_back(furthest([&](const Vec2& p) { return (p - deepest->second).norm(); }));
    while (chosen.size() < count) {
        auto apart = [&](const Vec2& p) {
            double nearest = 1e300;
            for (const Vec2& q : chosen) nearest = std::min(nearest, (p - q).norm());
            return nearest;
        };
        const Vec2 next = furthest(apart);
        if (apart(next) < 2 * room.reach_mm) break; // no wall would be left between the holes
        chosen.push_back(next);
    }
    return chosen;
}

} // namespace lp
