#include "shape/picked_place.h"
#include "shape/mesh_distance.h"
#include <algorithm>

namespace lp {

TagSet neighbours_of(const Tessellation& t, size_t face) {
    TagSet result;
    for (const EdgeInfo& edge : t.edges) {
        int other = edge.face_a == int(face) ? edge.face_b : edge.face_b == int(face) ? edge.face_a : -1;
        if (other >= 0) add_tags(result, t.faces[size_t(other)].tags);
    }
    return result;
}

double distance_to_face(const Tessellation& t, size_t face, const Vec3& p) {
    double best = 1e300;
    for (size_t i = 0; i < t.face_of.size(); ++i)
        if (t.face_of[i] == face)
            best = std::min(best,
                            (p - closest_on_triangle(p, t.mesh.corner(i, 0), t.mesh.corner(i, 1), t.mesh.corner(i, 2)))
                                .squaredNorm());
    return std::sqrt(best);
}

double distance_to_edge(const EdgeInfo& edge, const Vec3& point) {
    double nearest = 1e300;
    for (size_t k = 0; k + 1 < edge.points.size(); ++k) {
        const Vec3 d = edge.points[k + 1] - edge.points[k];
        const double s = std::clamp((point - edge.points[k]).dot(d) / std::max(d.squaredNorm(), 1e-300), 0.0, 1.0);
        nearest = std::min(nearest, (edge.points[k] + s * d - point).norm());
    }
    return nearest;
}

} // namespace lp
