#include "app/view/shape_buffers.h"
#include <limits>
#include <numeric>

namespace lp {
namespace {

ShapeVertex vertex(const Vec3& p, const Vec3& n, uint32_t face) {
    return {{float(p.x()), float(p.y()), float(p.z())}, {float(n.x()), float(n.y()), float(n.z())}, face};
}

} // namespace

ShapeTriangles shape_triangles(const Tessellation& shape) {
    constexpr uint32_t none = std::numeric_limits<uint32_t>::max();
    ShapeTriangles out;
    out.indices.reserve(shape.mesh.triangles.size() * 3);
    // What was sent for each place of the mesh, as chains: a place on a border has one vertex for every face.
    std::vector<uint32_t> first(shape.mesh.vertices.size(), none), next;
    for (size_t i = 0; i < shape.mesh.triangles.size(); ++i)
        for (size_t k = 0; k < 3; ++k) {
            const uint32_t place = shape.mesh.triangles[i][k];
            const ShapeVertex wanted = vertex(shape.mesh.vertices[place], shape.normals[i][k], shape.face_of[i]);
            uint32_t at = first[place];
            while (at != none && out.vertices[at] != wanted) at = next[at];
            if (at == none) {
                at = uint32_t(out.vertices.size());
                out.vertices.push_back(wanted);
                next.push_back(std::exchange(first[place], at));
            }
            out.indices.push_back(at);
        }
    return out;
}

ShapeTriangles shape_corners(const Tessellation& shape) {
    ShapeTriangles out;
    out.vertices.reserve(shape.mesh.triangles.size() * 3);
    for (size_t i = 0; i < shape.mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k)
            out.vertices.push_back(vertex(shape.mesh.corner(i, k), shape.normals[i][size_t(k)], shape.face_of[i]));
    out.indices.resize(out.vertices.size());
    std::iota(out.indices.begin(), out.indices.end(), 0u);
    return out;
}

void add_edge(ShapeEdges& edges, const std::vector<Vec3>& line, uint32_t edge) {
    for (size_t k = 1; k < line.size(); ++k) {
        const Vec3 &a = line[k - 1], &b = line[k];
        const auto base = uint32_t(edges.vertices.size());
        for (int corner = 0; corner < 4; ++corner)
            edges.vertices.push_back(
                {{float(a.x()), float(a.y()), float(a.z())}, {float(b.x()), float(b.y()), float(b.z())}, edge});
        for (uint32_t corner : {0u, 1u, 2u, 2u, 1u, 3u}) edges.indices.push_back(base + corner);
    }
}

ShapeEdges shape_edges(const Tessellation& shape) {
    ShapeEdges out;
    for (uint32_t e = 0; e < shape.edges.size(); ++e) add_edge(out, shape.edges[e].points, e);
    return out;
}

} // namespace lp
