#include "mesh/convex_hull.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>
#include <CGAL/convex_hull_3.h>

namespace lp {
namespace {

/// Whether four of the points span a volume: the library is not asked about anything flat.
bool spans_a_volume(const std::vector<Vec3>& points) {
    auto farthest = [&](auto off) {
        const Vec3* best = &points.front();
        for (const Vec3& p : points)
            if (off(p) > off(*best)) best = &p;
        return *best;
    };
    const Vec3 a = points.front(), b = farthest([&](const Vec3&p) { return (p - a).squaredNorm(); });
    const Vec3 along = (b - a).stableNormalized();
    const Vec3 c = farthest([&](const Vec3& p) { return (p - a).cross(along).squaredNorm(); });
    const Vec3 across = (b - a).cross(c - a).stableNormalized();
    const Vec3 d = farthest([&](const Vec3& p) { return std::fabs((p - a).dot(across)); });
    return std::fabs((d - a).dot(across)) > 1e-9 * std::max(1e-6, (b - a).norm());
}

} // namespace

TriMesh convex_hull(const std::vector<Vec3>& points) {
    using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
    using Solid = CGAL::Surface_mesh<Kernel::Point_3>;
    std::vector<Vec3> finite;
    for (const Vec3& p : points)
        if (p.allFinite()) finite.push_back(p);
    TriMesh hull;
    if (finite.size() < 4 || !spans_a_volume(finite)) return hull;
    std::vector<Kernel::Point_3> in;
    in.reserve(finite.size());
    for (const Vec3& p : finite) in.emplace_back(p.x(), p.y(), p.z());
    Solid solid;
    CGAL::convex_hull_3(in.begin(), in.end(), solid);
    for (Solid::Vertex_index v : solid.vertices()) {
        const auto& p = solid.point(v);
        hull.vertices.push_back({p.x(), p.y(), p.z()});
    }
    for (Solid::Face_index f : solid.faces()) {
        Triangle t{};
        size_t k = 0;
        for (Solid::Vertex_index v : solid.vertices_around_face(solid.halfedge(f)))
            if (k < 3) t[k++] = uint32_t(v.idx());
        hull.triangles.push_back(t);
    }
    return hull;
}

} // namespace lp
