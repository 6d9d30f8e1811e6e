#include "steps/edges/face_between_walls.h"
#include <algorithm>

namespace lp {

std::optional<FaceBetweenWalls> face_between_walls(const Body& body, size_t face, bool inner) {
    const Tessellation& t = body.tessellation();
    if (t.faces[face].kind != SurfaceKind::Plane) return std::nullopt;
    FaceBetweenWalls found;
    found.out = t.faces[face].direction;
    found.at = t.faces[face].centre;
    // The two longest straight edges that run the same way, each towards another flat face.
    struct Side {
        const EdgeInfo* edge;
        size_t wall;
        Vec3 way;
    };
    std::vector<Side> sides;
    for (const EdgeInfo& e : t.edges) {
        if (e.face_a < 0 || e.face_b < 0 || (size_t(e.face_a) != face && size_t(e.face_b) != face)) continue;
        size_t wall = size_t(e.face_a) == face ? size_t(e.face_b) : size_t(e.face_a);
        Vec3 way = e.points.back() - e.points.front();
        if (wall == face || t.faces[wall].kind != SurfaceKind::Plane || std::fabs(way.norm() - e.length_mm) > 1e-6)
            continue;
        const bool looks_at_face = t.faces[wall].direction.dot(t.faces[face].centre - e.points.front()) > 0;
        if (looks_at_face != inner) continue;
        sides.push_back({&e, wall, way.normalized()});
    }
    std::sort(sides.begin(), sides.end(),
              [](const Side& a, const Side& b) { return a.edge->length_mm > b.edge->length_mm; });
    const Side *first = nullptr, *second = nullptr;
    for (size_t i = 0; i < sides.size() && !second; ++i)
        for (size_t j = i + 1; j < sides.size() && !second; ++j)
            if (sides[i].wall != sides[j].wall && sides[i].way.cross(sides[j].way).norm() < 1e-6)
                first = &sides[i], second = &sides[j];
    if (!second) return std::nullopt;
    found.along = first->way;
    found.out_a = t.faces[first->wall].direction;
    found.out_b = t.faces[second->wall].direction;
    found.at_a = first->edge->points.front();
    found.at_b = second->edge->points.front();
    found.from = 1e300;
    found.to = -1e300;
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = t.mesh.corner(i, k);
            if (t.face_of[i] == face) {
                found.from = std::min(found.from, p.dot(found.along));
                found.to = std::max(found.to, p.dot(found.along));
            }
            if (t.face_of[i] == first->wall) found.depth_a = std::max(found.depth_a, (found.at_a - p).dot(found.out));
            if (t.face_of[i] == second->wall) found.depth_b = std::max(found.depth_b, (found.at_b - p).dot(found.out));
        }
    return found;
}

bool is_hollow(const Tessellation& t, size_t face) {
    const auto first = std::find(t.face_of.begin(), t.face_of.end(), face);
    if (first == t.face_of.end()) return false;
    const auto i = size_t(first - t.face_of.begin());
    const Vec3 off = t.mesh.corner(i, 0) - t.faces[face].axis_point, axis = t.faces[face].direction;
    return t.mesh.area_vector(i).dot(off - off.dot(axis) * axis) < 0;
}

} // namespace lp
