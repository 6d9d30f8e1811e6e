// What hangs: facets whose underside is steeper than the printer can lay without support.
#pragma once
#include "shape/tri_mesh.h"

namespace lp {

/// Degrees from vertical by which a facet hangs: 0 for walls and everything facing up, 90 for a flat roof. Up is +z.
double hang_angle_deg(const Vec3& outward_normal);

struct Overhang {
    double area_mm2 = 0;             ///< true area of hanging facets
    std::vector<uint32_t> triangles; ///< which they are
    double steepest_deg = 0;
    double lowest_z = 0;       ///< height above the lowest point at which hanging begins
    Vec3 where = Vec3::Zero(); ///< middle of the largest hanging facet
};

/// Facets that do not lie on the bed (some vertex more than 0.01 mm above the lowest) and hang steeper than the limit
/// (cli.md). The mesh stands as posed, up is +z.
Overhang find_overhang(const TriMesh& posed, double limit_deg);

} // namespace lp
