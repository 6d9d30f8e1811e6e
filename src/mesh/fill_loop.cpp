#include "mesh/mend.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/triangulate_hole.h>

namespace lp {

std::vector<Triangle> fill_loop(const std::vector<Vec3>& loop) {
    using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
    struct Face {
        Face(int a, int b, int c) : corner{uint32_t(a), uint32_t(b), uint32_t(c)} {}
        Triangle corner;
    };
    if (loop.size() < 3) return {};
    if (loop.size() == 3) return {{0, 1, 2}};
    std::vector<Kernel::Point_3> points;
    for (const Vec3& p : loop) points.emplace_back(p.x(), p.y(), p.z());
    std::vector<Face> faces;
    try {
        CGAL::Polygon_mesh_processing::triangulate_hole_polyline(points, std::back_inserter(faces));
    } catch (const std::exception&) {
        return {};
    }
    std::vector<Triangle> result;
    for (const Face& face : faces) result.push_back(face.corner);
    return result;
}

} // namespace lp
