#include "bed/brim.h"
#include "bed/slicing.h"
#include "mesh/flat_triangulation.h"

namespace lp {
namespace {

std::vector<std::vector<Vec2>> lines_of(const Region& region) {
    std::vector<std::vector<Vec2>> lines;
    for (const ClipperLib::Path& path : region) {
        std::vector<Vec2> line;
        for (const ClipperLib::IntPoint& p : path) line.push_back(Vec2(double(p.X), double(p.Y)) / clipper_grid);
        if (line.size() > 2) lines.push_back(std::move(line));
    }
    return lines;
}

/// From the bed up to a height.
TriMesh upright(const std::vector<std::vector<Vec2>>& lines, double height) {
    const auto fill = filled(lines);
    if (!fill) return {};
    TriMesh mesh;
    for (double z : {0.0, height})
        for (const std::vector<Vec2>& line : lines)
            for (const Vec2& p : line) mesh.vertices.push_back({p.x(), p.y(), z});
    const auto up = uint32_t(mesh.vertices.size() / 2);
    for (const Triangle& t : fill->triangles) {
        mesh.triangles.push_back({t[0], t[2], t[1]});
        mesh.triangles.push_back({up + t[0], up + t[1], up + t[2]});
    }
    uint32_t first = 0;
    for (const std::vector<Vec2>& line : lines) {
        const auto n = uint32_t(line.size());
        for (uint32_t k = 0; k < n; ++k) {
            const uint32_t a = fill->first_at[first + k], b = fill->first_at[first + (k + 1) % n];
            if (a == b) continue;
            mesh.triangles.push_back({a, b, up + b});
            mesh.triangles.push_back({a, up + b, up + a});
        }
        first += n;
    }
    return welded(mesh);
}

} // namespace

TriMesh make_brim(const TriMesh& posed, double width_mm, double layer_mm, const Task& task) {
    if (posed.empty() || !(width_mm > 0) || !(layer_mm > 0)) return {};
    const double floor = bounding_box(posed).min().z();
    const std::vector<Region> layers = slice(posed, {layer_mm, layer_mm}, floor, 1, task);
    if (layers.empty() || task.stopped()) return {};
    Region outer;
    for (const ClipperLib::Path& path : layers.front())
        if (ClipperLib::Orientation(path)) outer.push_back(path);
    outer = unite_regions(outer, {});
    Region border = subtract_regions(offset_region(outer, width_mm), outer);
    ClipperLib::SimplifyPolygons(border, ClipperLib::pftNonZero);
    return upright(lines_of(border), layer_mm);
}

} // namespace lp
