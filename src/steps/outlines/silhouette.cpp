#include "steps/outlines/silhouette.h"
#include "base/tolerance.h"
#include "outline/polygon_curves.h"
#include <polyclipping/clipper.hpp>
#include <unordered_map>

namespace lp {
namespace {

constexpr double grid_mm = 1e-5; ///< finer overflows on large parts (architecture.md)

/// Borders of the facets that look up, as loops: how often they go round a place is how many layers lie over it.
void add_loops(const Body& body, const Transform& to_plane, ClipperLib::Paths& loops) {
    const TriMesh& mesh = body.mesh();
    std::vector<Vec2> flat;
    for (const Vec3& v : mesh.vertices) flat.push_back((to_plane * v).head<2>());
    std::unordered_map<uint64_t, int> edges;
    auto key = [](uint32_t a, uint32_t b) { return uint64_t(a) << 32 | b; };
    for (const Triangle& t : mesh.triangles) {
        if (cross2(flat[t[1]] - flat[t[0]], flat[t[2]] - flat[t[0]]) <= 1e-12) continue;
        for (int k = 0; k < 3; ++k) {
            uint32_t a = t[k], b = t[(k + 1) % 3];
            if (auto other = edges.find(key(b, a)); other != edges.end() && other->second > 0) {
                if (--other->second == 0) edges.erase(other);
            } else {
                ++edges[key(a, b)];
            }
        }
    }
    std::unordered_multimap<uint32_t, uint32_t> next;
    for (const auto& [edge, count] : edges)
        for (int k = 0; k < count; ++k) next.emplace(uint32_t(edge >> 32), uint32_t(edge));
    auto point = [&](uint32_t v) {
        return ClipperLib::IntPoint(ClipperLib::cInt(std::llround(flat[v].x() / grid_mm)),
                                    ClipperLib::cInt(std::llround(flat[v].y() / grid_mm)));
    };
    while (!next.empty()) { // as many edges leave a vertex as come: every walk ends where it began
        ClipperLib::Path loop;
        uint32_t start = next.begin()->first, at = start;
        do {
            auto edge = next.find(at);
            if (edge == next.end()) break;
            loop.push_back(point(at));
            at = edge->second;
            next.erase(edge);
        } while (at != start);
        if (loop.size() > 2) loops.push_back(std::move(loop));
    }
}

} // namespace

Expected<FlatPaths> silhouette_of(const std::vector<const Body*>& bodies, const Transform& plane) {
    Transform to_plane = plane.inverse();
    ClipperLib::Clipper clipper;
    for (const Body* body : bodies) {
        Box3 box = body->box();
        if (box.isEmpty() || box.sizes().maxCoeff() > tolerance::largest_mm)
            return problem(ProblemCode::Range, "This body is too large for a silhouette.", "Use a smaller part.");
        ClipperLib::Paths loops;
        add_loops(*body, to_plane, loops);
        clipper.AddPaths(loops, ClipperLib::ptSubject, true);
    }
    ClipperLib::Paths covered;
    if (!clipper.Execute(ClipperLib::ctUnion, covered, ClipperLib::pftNonZero, ClipperLib::pftNonZero))
        return problem(ProblemCode::Geometry, "The silhouette of these bodies could not be made.",
                       "Take edges of the part instead.");
    ClipperLib::CleanPolygons(covered, 0.002 / grid_mm);
    FlatPaths paths;
    FlatPath path;
    for (const ClipperLib::Path& polygon : covered) {
        if (polygon.size() < 3) continue;
        std::vector<Vec2> p;
        for (const ClipperLib::IntPoint& q : polygon) p.push_back(Vec2(double(q.X), double(q.Y)) * grid_mm);
        path.contours.push_back(curves_of_polygon(std::move(p)));
        path.closed.push_back(true);
    }
    if (path.contours.empty())
        return problem(ProblemCode::Missing, "There is nothing to see of a part here.",
                       "Put a solid before this step.");
    paths.paths.push_back(std::move(path));
    return paths;
}

} // namespace lp
