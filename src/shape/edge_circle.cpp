#include "shape/edge_circle.h"
#include <algorithm>
#include <cmath>

namespace lp {

std::optional<EdgeCircle> circle_of(const std::vector<Vec3>& points) {
    constexpr double same_mm = 1e-6, off_mm = 1e-3; // of meshes, whose corners were rounded
    constexpr size_t least_of_arc = 5;
    if (points.size() < 4) return std::nullopt;
    const bool whole = (points.front() - points.back()).norm() < same_mm;
    const size_t n = points.size() - (whole ? 1 : 0);
    if (!whole && n < least_of_arc) return std::nullopt;
    // Round a triangle of them: the centre from its sides (circumcentre, elementary geometry).
    const Vec3& a = points[0];
    const Vec3 ab = points[n / 3] - a, ac = points[whole ? 2 * n / 3 : n - 1] - a, across = ab.cross(ac);
    const double twice = 2 * across.squaredNorm();
    if (!(twice > 0)) return std::nullopt;
    EdgeCircle circle;
    circle.centre = a + (ac.squaredNorm() * across.cross(ab) + ab.squaredNorm() * ac.cross(across)) / twice;
    circle.normal = across.normalized();
    circle.radius_mm = (a - circle.centre).norm();
    const double most_off = off_mm * (1 + circle.radius_mm);
    const bool on_it = std::all_of(points.begin(), points.end(), [&](const Vec3& p) {
        const Vec3 out = p - circle.centre;
        return std::fabs(out.norm() - circle.radius_mm) < most_off && std::fabs(out.dot(circle.normal)) < most_off;
    });
    return on_it && circle.centre.allFinite() ? std::optional(circle) : std::nullopt;
}

} // namespace lp
