#include "mesh/flat_triangulation.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <deque>
#include <set>

namespace lp {

namespace {
using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Data = CGAL::Triangulation_data_structure_2<CGAL::Triangulation_vertex_base_with_info_2<uint32_t, Kernel>,
                                                  CGAL::Constrained_triangulation_face_base_2<Kernel>>;
using Triangulation = CGAL::Constrained_Delaunay_triangulation_2<Kernel, Data, CGAL::No_constraint_intersection_tag>;

/// Faces that lie within, counted over lines from outside.
std::set<Triangulation::Face_handle> inner_faces(const Triangulation& all) {
    std::set<Triangulation::Face_handle> inner, seen;
    std::deque<std::pair<Triangulation::Face_handle, bool>> todo{{all.infinite_face(), false}};
    while (!todo.empty()) {
        const auto [face, inside] = todo.front();
        todo.pop_front();
        if (!seen.insert(face).second) continue;
        if (inside) inner.insert(face);
        for (int k = 0; k < 3; ++k) {
            const bool over_line = face->is_constrained(k);
            // Across no line first, so that a face is reached from its own side.
            if (over_line)
                todo.push_back({face->neighbor(k), !inside});
            else
                todo.push_front({face->neighbor(k), inside});
        }
    }
    return inner;
}
/// Lines laid into a triangulation, each place known by the number of the first that lies there.
struct Laid {
    Triangulation all;
    std::vector<uint32_t> first_at;
};
std::optional<Laid> laid(const std::vector<std::vector<Vec2>>& lines) {
    Laid result;
    std::vector<Triangulation::Vertex_handle> places;
    for (const std::vector<Vec2>& line : lines)
        for (const Vec2& p : line) {
            const size_t before = result.all.number_of_vertices();
            places.push_back(result.all.insert(Kernel::Point_2(p.x(), p.y())));
            if (result.all.number_of_vertices() > before) places.back()->info() = uint32_t(places.size() - 1);
            result.first_at.push_back(places.back()->info());
        }
    if (result.all.dimension() < 2) return std::nullopt;
    try {
        size_t first = 0;
        for (const std::vector<Vec2>& line : lines) {
            for (size_t k = 0; k < line.size(); ++k)
                if (const auto a = places[first + k], b = places[first + (k + 1) % line.size()]; a != b)
                    result.all.insert_constraint(a, b);
            first += line.size();
        }
    } catch (const Triangulation::Intersection_of_constraints_exception&) {
        return std::nullopt;
    }
    return result;
}

Triangle corners_of(Triangulation::Face_handle face) {
    return {face->vertex(0)->info(), face->vertex(1)->info(), face->vertex(2)->info()};
}

} // namespace

std::optional<FlatFill> filled(const std::vector<std::vector<Vec2>>& lines) {
    auto made = laid(lines);
    if (!made) return std::nullopt;
    FlatFill fill{{}, std::move(made->first_at)};
    const auto inner = inner_faces(made->all);
    for (auto face : made->all.finite_face_handles())
        if (inner.count(face)) fill.triangles.push_back(corners_of(face));
    return fill;
}

std::optional<FlatPatch> patch_between(const std::vector<std::vector<Vec2>>& lines) {
    const auto made = laid(lines);
    std::vector<size_t> line_of;
    for (size_t i = 0; i < lines.size(); ++i) line_of.insert(line_of.end(), lines[i].size(), i);
    if (!made || made->all.number_of_vertices() != line_of.size()) return std::nullopt;
    FlatPatch patch;
    for (auto face : made->all.finite_face_handles()) {
        const Triangle t = corners_of(face);
        // With all corners on one line it lies within: the lines are convex.
        if (line_of[t[0]] != line_of[t[1]] || line_of[t[1]] != line_of[t[2]]) patch.triangles.push_back(t);
    }
    auto round = made->all.incident_vertices(made->all.infinite_vertex()), end = round;
    do patch.hull.push_back(round->info());
    while (++round != end);
    std::reverse(patch.hull.begin(), patch.hull.end()); // seen from outside they come clockwise
    return patch;
}

FilledPolygon filled_polygon(const std::vector<Vec3>& corners) {
    FilledPolygon result;
    auto fan = [&] {
        for (uint32_t k = 2; k < corners.size(); ++k) result.triangles.push_back({0, k - 1, k});
    };
    if (corners.size() < 4) {
        fan();
        return result;
    }
    Vec3 normal = Vec3::Zero(); // Newell
    for (size_t k = 0; k < corners.size(); ++k)
        normal += (corners[k] - corners[0]).cross(corners[(k + 1) % corners.size()] - corners[0]);
    double longest = 0;
    for (const Vec3& c : corners) longest = std::max(longest, (c - corners[0]).squaredNorm());
    if (!(normal.norm() > 1e-9 * longest)) { // its loops cancel out
        fan();
        result.crosses_itself = longest > 0;
        return result;
    }
    normal.stableNormalize();
    const Vec3 x = (std::fabs(normal.x()) < 0.9 ? Vec3::UnitX() : Vec3::UnitY()).cross(normal).stableNormalized(),
               y = normal.cross(x);
    std::vector<Vec2> flat;
    for (const Vec3& c : corners) flat.emplace_back((c - corners[0]).dot(x), (c - corners[0]).dot(y));
    // Every triangle of the fan turns the right way, and all together go round once: then it is the polygon.
    bool convex = flat.size() > 3;
    for (size_t k = 0; k < flat.size() && convex; ++k) {
        const Vec2 a = flat[(k + 1) % flat.size()] - flat[k],
                   b = flat[(k + 2) % flat.size()] - flat[(k + 1) % flat.size()];
        convex = a.x() * b.y() - a.y() * b.x() >= 0;
    }
    for (uint32_t k = 2; k < flat.size() && convex; ++k) {
        const Vec2 a = flat[k - 1] - flat[0], b = flat[k] - flat[0];
        convex = a.x() * b.y() - a.y() * b.x() >= 0;
    }
    if (convex) {
        fan();
        return result;
    }
    const auto fill = filled({flat});
    // Corners that coincide would leave the outline; so would lines that cross.
    bool whole = fill && fill->triangles.size() + 2 == flat.size();
    for (uint32_t k = 0; whole && k < flat.size(); ++k) whole = fill->first_at[k] == k;
    if (whole) {
        result.triangles = fill->triangles;
        return result;
    }
    result.crosses_itself = !fill;
    if (fill && !fill->triangles.empty())
        result.triangles = fill->triangles;
    else
        fan();
    return result;
}

} // namespace lp
