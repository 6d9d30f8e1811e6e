#include "steps/fits/vanished_wall.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/mesh_distance.h"
#include <algorithm>
#include <optional>

namespace lp {
namespace {

struct Wall {
    size_t face = 0;
    double thickness_mm = 0;
    Vec3 at_face = Vec3::Zero(), at_tool = Vec3::Zero();
};

/// Faces of the host that come nearer to the tool than `reach` without meeting it, thinnest first.
std::vector<Wall> near_faces(const Tessellation& host, const Body& tool, double reach, const Task& task) {
    Box3 near = tool.box();
    near.min().array() -= reach;
    near.max().array() += reach;
    std::vector<TriMesh> pieces(host.faces.size());
    for (size_t t = 0; t < host.mesh.triangles.size(); ++t) {
        Box3 around;
        for (int k = 0; k < 3; ++k) around.extend(host.mesh.corner(t, k));
        if (!around.intersects(near)) continue;
        TriMesh& piece = pieces[host.face_of[t]];
        uint32_t first = static_cast<uint32_t>(piece.vertices.size());
        for (int k = 0; k < 3; ++k) piece.vertices.push_back(host.mesh.corner(t, k));
        piece.triangles.push_back({first, first + 1, first + 2});
    }
    std::vector<Wall> walls;
    std::optional<DistanceTree> around_tool;
    for (size_t f = 0; f < pieces.size() && !task.stopped(); ++f) {
        if (pieces[f].triangles.empty()) continue;
        if (!around_tool) around_tool.emplace(tool.mesh());
        ClosestPair pair = closest_pair(DistanceTree(pieces[f]), *around_tool, reach);
        if (pair.distance_mm > tolerance::touching_mm && pair.distance_mm <= reach)
            walls.push_back({f, pair.distance_mm, pair.at_a, pair.at_b});
    }
    std::sort(walls.begin(), walls.end(), [](const Wall& a, const Wall& b) { return a.thickness_mm < b.thickness_mm; });
    return walls;
}

std::string face_words(const FaceInfo& face) {
    if (face.kind == SurfaceKind::Cylinder) return "round face";
    if (face.kind != SurfaceKind::Plane) return "curved face";
    const char* sides[3][2] = {{"left face", "right face"}, {"front face", "back face"}, {"bottom face", "top face"}};
    Eigen::Index axis;
    if (face.direction.cwiseAbs().maxCoeff(&axis) < 1 - 1e-6) return "sloped face";
    return sides[axis][face.direction[axis] > 0];
}

} // namespace

std::string vanished_wall(const Body& host, const Body& tool, const Body& envelope, double gap_mm, const Task& task) {
    if (gap_mm <= 0 || !host.box().intersects(envelope.box())) return {};
    std::vector<Wall> walls = near_faces(host.tessellation(), tool, gap_mm + tolerance::same_mm, task);
    if (walls.empty()) return {};
    DistanceTree material(host.mesh()), taken(envelope.mesh());
    for (const Wall& wall : walls) {
        Vec3 just_inside = wall.at_face + 0.1 * (wall.at_tool - wall.at_face);
        if (!material.inside((wall.at_face + wall.at_tool) / 2) || !taken.inside(just_inside)) continue;
        return "The gap of " + format_fixed(gap_mm, 2) + " mm takes away the wall at the " +
               face_words(host.tessellation().faces[wall.face]) + ", which is " + format_fixed(wall.thickness_mm, 2) +
               " mm thick.";
    }
    return {};
}

} // namespace lp
