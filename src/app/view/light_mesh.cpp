#include "app/view/light_mesh.h"
#include <meshoptimizer.h>

namespace lp {
namespace {

/// Places that are no numbers would spoil every measure: they lie at the origin here.
ShapeTriangles sound_triangles(const Tessellation& shape) {
    ShapeTriangles all = shape_triangles(shape);
    for (ShapeVertex& v : all.vertices)
        for (float& x : v.position)
            if (!std::isfinite(x)) x = 0;
    return all;
}

/// Only the vertices that are used, in the order in which a driver likes to meet them.
ShapeTriangles packed(const ShapeTriangles& all, std::vector<uint32_t> indices) {
    ShapeTriangles out;
    if (indices.empty()) return out;
    out.indices.resize(indices.size());
    meshopt_optimizeVertexCache(out.indices.data(), indices.data(), indices.size(), all.vertices.size());
    out.vertices.resize(all.vertices.size());
    out.vertices.resize(meshopt_optimizeVertexFetch(out.vertices.data(), out.indices.data(), out.indices.size(),
                                                    all.vertices.data(), all.vertices.size(), sizeof(ShapeVertex)));
    return out;
}

float extent_of(const ShapeTriangles& all) {
    return meshopt_simplifyScale(all.vertices.front().position, all.vertices.size(), sizeof(ShapeVertex));
}

/// The points of a line that are left when those nearer than `error_mm` to the rest go (Douglas and Peucker, 1973).
std::vector<Vec3> fewer_points(const std::vector<Vec3>& line, double error_mm) {
    std::vector<bool> stays(line.size());
    stays.front() = stays.back() = true;
    std::vector<std::pair<size_t, size_t>> open = {{0, line.size() - 1}};
    while (!open.empty()) {
        const auto [from, to] = open.back();
        open.pop_back();
        const Vec3 along = line[to] - line[from];
        double farthest = error_mm * error_mm;
        size_t at = from;
        for (size_t i = from + 1; i < to; ++i) {
            const Vec3 d = line[i] - line[from];
            const double t = along.squaredNorm() > 0 ? std::clamp(d.dot(along) / along.squaredNorm(), 0.0, 1.0) : 0.0;
            const double off = (d - t * along).squaredNorm();
            if (off > farthest) farthest = off, at = i;
        }
        if (at == from) continue;
        stays[at] = true;
        open.push_back({from, at});
        open.push_back({at, to});
    }
    std::vector<Vec3> left;
    for (size_t i = 0; i < line.size(); ++i)
        if (stays[i]) left.push_back(line[i]);
    return left;
}

} // namespace

LightShape light_shape(const Tessellation& shape, double error_mm) {
    LightShape light;
    const ShapeTriangles all = sound_triangles(shape);
    if (all.vertices.empty()) return light;
    const float extent = extent_of(all);
    std::vector<uint32_t> indices(all.indices.size());
    if (extent > 0)
        indices.resize(meshopt_simplify(indices.data(), all.indices.data(), all.indices.size(),
                                        all.vertices.front().position, all.vertices.size(), sizeof(ShapeVertex), 3,
                                        float(error_mm) / extent));
    else
        indices.clear();
    light.triangles = packed(all, std::move(indices));
    for (uint32_t e = 0; e < shape.edges.size(); ++e)
        if (shape.edges[e].points.size() > 1) add_edge(light.edges, fewer_points(shape.edges[e].points, error_mm), e);
    return light;
}

ShapeTriangles coarse_triangles(const Tessellation& shape, size_t facets) {
    const ShapeTriangles all = sound_triangles(shape);
    if (all.vertices.empty() || !(extent_of(all) > 0)) return {};
    std::vector<uint32_t> indices(all.indices.size());
    indices.resize(meshopt_simplifySloppy(indices.data(), all.indices.data(), all.indices.size(),
                                          all.vertices.front().position, all.vertices.size(), sizeof(ShapeVertex),
                                          std::min(facets * 3, all.indices.size()), 1.0f));
    return packed(all, std::move(indices));
}

} // namespace lp
