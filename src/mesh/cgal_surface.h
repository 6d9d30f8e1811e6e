// Between our triangles and the general geometry library's surfaces. Included by the few files that see CGAL.
#pragma once
#include "shape/tri_mesh.h"
#include <CGAL/Surface_mesh.h>
#include <optional>

namespace lp {

/// Nothing where edges or corners are crowded: such a mesh is no one surface.
template <class Point> std::optional<CGAL::Surface_mesh<Point>> surface_of(const TriMesh& mesh) {
    using Surface = CGAL::Surface_mesh<Point>;
    using Vertex = typename Surface::Vertex_index;
    Surface surface;
    for (const Vec3& v : mesh.vertices) surface.add_vertex({v.x(), v.y(), v.z()});
    for (const Triangle& t : mesh.triangles)
        if (surface.add_face(Vertex(t[0]), Vertex(t[1]), Vertex(t[2])) == Surface::null_face()) return std::nullopt;
    return surface;
}

/// Without tags; what was taken out of the surface is gone from it afterwards.
template <class Point> TriMesh triangles_of(CGAL::Surface_mesh<Point>& surface) {
    surface.collect_garbage();
    TriMesh mesh;
    for (auto v : surface.vertices()) {
        const auto& p = surface.point(v);
        mesh.vertices.emplace_back(p.x(), p.y(), p.z());
    }
    for (auto f : surface.faces()) {
        Triangle t{};
        int k = 0;
        for (auto v : surface.vertices_around_face(surface.halfedge(f))) t[size_t(k++)] = uint32_t(v);
        mesh.triangles.push_back(t);
    }
    return mesh;
}

} // namespace lp
