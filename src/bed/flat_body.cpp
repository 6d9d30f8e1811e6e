#include "bed/flat_body.h"
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

} // namespace

TriMesh flat_body(const Region& region, double from_z, double to_z) {
    Region simple = region;
    ClipperLib::SimplifyPolygons(simple, ClipperLib::pftNonZero);
    const auto lines = lines_of(simple);
    const auto fill = filled(lines);
    if (!fill || !(to_z > from_z)) return {};
    TriMesh mesh;
    for (double z : {from_z, to_z})
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

} // namespace lp
