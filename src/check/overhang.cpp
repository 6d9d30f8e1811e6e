#include "check/overhang.h"
#include "base/tolerance.h"
#include <algorithm>

namespace lp {

double hang_angle_deg(const Vec3& normal) {
    // Downward normals: a wall has n.z = 0 (0 degrees), a flat roof n.z = -1 (90 degrees from vertical).
    return normal.z() >= 0 ? 0 : degrees(std::asin(std::clamp(-normal.z(), 0.0, 1.0)));
}

Overhang find_overhang(const TriMesh& posed, double limit_deg) {
    Overhang result;
    if (posed.empty()) return result;
    double floor = bounding_box(posed).min().z(), largest = -1;
    result.lowest_z = bounding_box(posed).sizes().z();
    for (uint32_t i = 0; i < posed.triangles.size(); ++i) {
        Vec3 vector = posed.area_vector(i) / 2;
        double area = vector.norm();
        if (area <= 0 || vector.z() >= 0) continue;
        double high = std::max({posed.corner(i, 0).z(), posed.corner(i, 1).z(), posed.corner(i, 2).z()});
        double low = std::min({posed.corner(i, 0).z(), posed.corner(i, 1).z(), posed.corner(i, 2).z()});
        if (high - floor <= tolerance::on_bed_mm) continue;
        double angle = hang_angle_deg(vector / area);
        // A ten-thousandth of a degree of slack: a facet drawn at exactly the limit stays printable after rounding.
        if (angle <= limit_deg + 1e-4) continue;
        result.area_mm2 += area;
        result.triangles.push_back(i);
        result.steepest_deg = std::max(result.steepest_deg, angle);
        result.lowest_z = std::min(result.lowest_z, low - floor);
        if (area > largest) {
            largest = area;
            result.where = (posed.corner(i, 0) + posed.corner(i, 1) + posed.corner(i, 2)) / 3;
        }
    }
    return result;
}

} // namespace lp
