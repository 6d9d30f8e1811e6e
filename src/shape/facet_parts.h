// Places spread over a facet: the middles of the equal parts it is cut into.
#pragma once
#include "shape/tri_mesh.h"
#include <algorithm>
#include <cmath>

namespace lp {

/// Calls back with the middle of each part and its share of the facet's area, mm2. Parts are about `size_mm` along the
/// facet's longest edge, which is cut into `most` at the utmost.
template <class Call>
void each_facet_part(const TriMesh& mesh, uint32_t facet, double size_mm, int most, const Call& call) {
    const Vec3 a = mesh.corner(facet, 0), b = mesh.corner(facet, 1), c = mesh.corner(facet, 2);
    const double longest = std::max({(b - a).norm(), (c - b).norm(), (a - c).norm()}), third = 1.0 / 3;
    const int parts = std::clamp(int(std::ceil(longest / size_mm)), 1, most);
    const double share = mesh.area_vector(facet).norm() / 2 / (double(parts) * parts);
    auto take = [&](double u, double v) { call(Vec3(a + (b - a) * u + (c - a) * v), share); };
    for (int u = 0; u < parts; ++u)
        for (int v = 0; v + u < parts; ++v) {
            take((u + third) / parts, (v + third) / parts);
            if (u + v + 1 < parts) take((u + 2 * third) / parts, (v + 2 * third) / parts);
        }
}

} // namespace lp
