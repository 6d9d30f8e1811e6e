#include "handoff/flat_outline.h"
#include "base/tolerance.h"
#include "mesh/cross_section.h"
#include "outline/polygon_curves.h"
#include <map>

namespace lp {
namespace {

/// Corners along the border of a face: edges that one of its facets has and no other, as they run in it.
std::vector<std::vector<uint32_t>> borders(const Tessellation& shape, size_t face) {
    std::multimap<uint32_t, uint32_t> edges;
    for (size_t t = 0; t < shape.mesh.triangles.size(); ++t) {
        if (shape.face_of[t] != face) continue;
        const Triangle& corners = shape.mesh.triangles[t];
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t a = corners[k], b = corners[(k + 1) % 3];
            const auto [from, to] = edges.equal_range(b);
            const auto back = std::find_if(from, to, [&](const auto& edge) { return edge.second == a; });
            if (back != to)
                edges.erase(back);
            else
                edges.emplace(a, b);
        }
    }
    std::vector<std::vector<uint32_t>> loops;
    while (!edges.empty()) {
        std::vector<uint32_t> loop{edges.begin()->first};
        for (auto next = edges.begin(); next != edges.end(); next = edges.find(loop.back())) {
            const uint32_t to = next->second;
            edges.erase(next);
            if (to == loop.front()) break;
            loop.push_back(to);
        }
        loops.push_back(std::move(loop));
    }
    return loops;
}

} // namespace

Transform plane_seen(const Vec3& normal, const Vec3& point) {
    const Vec3 up = std::fabs(normal.z()) > 0.999 ? Vec3::UnitY() : Vec3::UnitZ();
    const Vec3 right = up.cross(normal).normalized();
    Transform plane = Transform::Identity();
    plane.linear().col(0) = right;
    plane.linear().col(1) = normal.cross(right);
    plane.linear().col(2) = normal;
    plane.translation() = normal * normal.dot(point); // over the origin: places in it are those of the part
    return plane;
}

Expected<FlatOutline> face_outline(const Tessellation& shape, size_t face) {
    if (face >= shape.faces.size()) return problem(ProblemCode::Missing, "There is no such face.", "Choose a face.");
    FlatOutline outline;
    const std::vector<std::vector<uint32_t>> loops = borders(shape, face);
    Vec3 normal = Vec3::Zero();
    for (size_t t = 0; t < shape.mesh.triangles.size(); ++t)
        if (shape.face_of[t] == face) normal += shape.mesh.area_vector(t);
    if (loops.empty() || !(normal.norm() > 0))
        return problem(ProblemCode::Geometry, "This face has no outline: it closes in itself.", "Choose a flat face.");
    normal.normalize();
    outline.plane = plane_seen(normal, shape.mesh.vertices[loops.front().front()]);
    const Transform into = outline.plane.inverse();
    for (size_t t = 0; t < shape.mesh.triangles.size(); ++t)
        for (size_t k = 0; shape.face_of[t] == face && k < 3; ++k)
            if (std::fabs((into * shape.mesh.vertices[shape.mesh.triangles[t][k]]).z()) >
                tolerance::export_deflection_mm)
                return problem(ProblemCode::Geometry, "This face is not flat: it has no outline in one plane.",
                               "Choose a flat face, or cut with the section.");
    for (const auto& loop : loops) {
        std::vector<Vec2> polygon;
        for (uint32_t v : loop) polygon.push_back((into * shape.mesh.vertices[v]).head<2>());
        outline.loops.push_back(curves_of_polygon(std::move(polygon)));
    }
    return outline;
}

Expected<FlatOutline> section_outline(const std::vector<TriMesh>& meshes, const Transform& plane) {
    FlatOutline outline{{}, plane};
    for (const TriMesh& mesh : meshes)
        for (auto& polygon : cross_section(mesh, plane))
            if (polygon.size() > 2) outline.loops.push_back(curves_of_polygon(std::move(polygon)));
    if (outline.loops.empty())
        return problem(ProblemCode::Geometry, "The plane misses everything: nothing is cut.", "Move the plane.");
    return outline;
}

} // namespace lp
