// Faces and edges of a bare mesh, so that a foreign part can be picked like one made here.
#include "base/geometry.h"
#include "base/union_find.h"
#include "shape/body.h"
#include <algorithm>
#include <cmath>

namespace lp {
namespace {

struct HalfEdge {
    uint64_t key;
    uint32_t triangle;
    uint32_t from, to;
};

std::vector<HalfEdge> sorted_half_edges(const TriMesh& mesh) {
    std::vector<HalfEdge> edges;
    edges.reserve(mesh.triangles.size() * 3);
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) {
            uint32_t a = mesh.triangles[i][k], b = mesh.triangles[i][(k + 1) % 3];
            edges.push_back({uint64_t(std::min(a, b)) << 32 | std::max(a, b), i, a, b});
        }
    std::sort(edges.begin(), edges.end(), [](const HalfEdge& x, const HalfEdge& y) { return x.key < y.key; });
    return edges;
}

/// Averaged within a face around each vertex; those of flat faces are their facets'.
std::vector<std::array<Vec3, 3>> corner_normals(const TriMesh& mesh, const std::vector<Vec3>& normal,
                                                const Tessellation& result) {
    const size_t count = mesh.triangles.size();
    std::unordered_map<uint64_t, Vec3> around;
    around.reserve(mesh.vertices.size() + 16);
    for (uint32_t i = 0; i < count; ++i)
        if (result.faces[result.face_of[i]].kind != SurfaceKind::Plane)
            for (uint32_t v : mesh.triangles[i]) {
                auto [it, fresh] = around.try_emplace(uint64_t(result.face_of[i]) << 32 | v, Vec3::Zero());
                it->second += mesh.area_vector(i);
            }
    std::vector<std::array<Vec3, 3>> normals(count);
    for (uint32_t i = 0; i < count; ++i)
        for (int k = 0; k < 3; ++k) {
            normals[i][k] = normal[i];
            auto found = around.find(uint64_t(result.face_of[i]) << 32 | mesh.triangles[i][k]);
            if (found != around.end() && found->second.norm() > 0) normals[i][k] = found->second.normalized();
        }
    return normals;
}

} // namespace

Tessellation segment_mesh(TriMesh mesh) {
    constexpr double smooth_deg = 20; // facets of a printed round meet flatter than this
    Tessellation result;
    const double smooth = std::cos(radians(smooth_deg));
    const size_t count = mesh.triangles.size();
    std::vector<Vec3> normal(count);
    for (size_t i = 0; i < count; ++i) {
        Vec3 v = mesh.area_vector(i);
        double n = v.norm();
        normal[i] = n > 0 ? Vec3(v / n) : Vec3::UnitZ();
    }
    bool tagged = mesh.tags.size() == count;
    auto edges = sorted_half_edges(mesh);
    UnionFind patches(count);
    struct Sharp {
        uint32_t a, b, t0, t1;
    };
    std::vector<Sharp> sharp;
    for (size_t i = 0; i < edges.size();) {
        size_t j = i + 1;
        while (j < edges.size() && edges[j].key == edges[i].key) ++j;
        if (j - i == 2) {
            uint32_t s = edges[i].triangle, t = edges[i + 1].triangle;
            bool one_face = normal[s].dot(normal[t]) > smooth && (!tagged || mesh.tags[s] == mesh.tags[t]);
            if (one_face) {
                patches.join(s, t);
            } else {
                sharp.push_back({edges[i].from, edges[i].to, s, t});
            }
        } else {
            sharp.push_back({edges[i].from, edges[i].to, edges[i].triangle, ~0u});
        }
        i = j;
    }
    // Faces.
    std::vector<uint32_t> index(count, ~0u);
    result.face_of.resize(count);
    std::vector<Vec3> sum, moment;
    for (uint32_t i = 0; i < count; ++i) {
        uint32_t root = patches.find(i);
        if (index[root] == ~0u) {
            index[root] = uint32_t(result.faces.size());
            FaceInfo info;
            info.tags = {tagged ? mesh.tags[i] : intern_tag({StepId(), FaceRole::Imported, index[root], 0, 0})};
            result.faces.push_back(info);
            sum.push_back(Vec3::Zero());
            moment.push_back(Vec3::Zero());
        }
        uint32_t f = result.face_of[i] = index[root];
        Vec3 v = mesh.area_vector(i) / 2;
        double area = v.norm();
        result.faces[f].area_mm2 += area;
        sum[f] += v;
        moment[f] += area * (mesh.corner(i, 0) + mesh.corner(i, 1) + mesh.corner(i, 2)) / 3;
    }
    for (size_t f = 0; f < result.faces.size(); ++f) {
        FaceInfo& info = result.faces[f];
        if (info.area_mm2 > 0) info.centre = moment[f] / info.area_mm2;
        if (sum[f].norm() > 0) info.direction = sum[f].normalized();
        // Flat when the summed area vectors lose almost nothing of the area.
        info.kind = sum[f].norm() > info.area_mm2 * 0.99999 ? SurfaceKind::Plane : SurfaceKind::Other;
    }
    result.normals = corner_normals(mesh, normal, result);
    for (const Sharp& s : sharp) {
        EdgeInfo edge;
        edge.points = {mesh.vertices[s.a], mesh.vertices[s.b]};
        edge.face_a = int(result.face_of[s.t0]);
        edge.face_b = s.t1 == ~0u ? -1 : int(result.face_of[s.t1]);
        edge.length_mm = (edge.points[1] - edge.points[0]).norm();
        result.edges.push_back(std::move(edge));
    }
    result.mesh = std::move(mesh);
    return result;
}

} // namespace lp
