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
} // namespace

std::optional<FlatFill> filled(const std::vector<std::vector<Vec2>>& lines) {
    Triangulation all;
    FlatFill fill;
    std::vector<Triangulation::Vertex_handle> places;
    for (const std::vector<Vec2>& line : lines)
        for (const Vec2& p : line) {
            const size_t before = all.number_of_vertices();
            places.push_back(all.insert(Kernel::Point_2(p.x(), p.y())));
            const auto number = uint32_t(places.size() - 1);
            if (all.number_of_vertices() > before) places.back()->info() = number;
            fill.first_at.push_back(places.back()->info());
        }
    if (all.dimension() < 2) return std::nullopt;
    try {
        size_t first = 0;
        for (const std::vector<Vec2>& line : lines) {
            for (size_t k = 0; k < line.size(); ++k)
                if (places[first + k] != places[first + (k + 1) % line.size()])
                    all.insert_constraint(places[first + k], places[first + (k + 1) % line.size()]);
            first += line.size();
        }
    } catch (const Triangulation::Intersection_of_constraints_exception&) {
        return std::nullopt;
    }
    const auto inner = inner_faces(all);
    for (auto face : all.finite_face_handles())
        if (inner.count(face))
            fill.triangles.push_back({face->vertex(0)->info(), face->vertex(1)->info(), face->vertex(2)->info()});
    return fill;
}

std::optional<FlatPatch> patch_between(const std::vector<std::vector<Vec2>>& lines) {
    Triangulation all;
    std::vector<Triangulation::Vertex_handle> places;
    std::vector<size_t> line_of;
    for (const std::vector<Vec2>& line : lines)
        for (const Vec2& p : line) {
            places.push_back(all.insert(Kernel::Point_2(p.x(), p.y())));
            places.back()->info() = uint32_t(line_of.size());
            line_of.push_back(size_t(&line - lines.data()));
        }
    if (all.number_of_vertices() != places.size() || all.dimension() < 2) return std::nullopt;
    try {
        size_t first = 0;
        for (const std::vector<Vec2>& line : lines) {
            for (size_t k = 0; k < line.size(); ++k)
                all.insert_constraint(places[first + k], places[first + (k + 1) % line.size()]);
            first += line.size();
        }
    } catch (const Triangulation::Intersection_of_constraints_exception&) {
        return std::nullopt;
    }
    FlatPatch patch;
    for (auto face : all.finite_face_handles()) {
        const Triangle t{face->vertex(0)->info(), face->vertex(1)->info(), face->vertex(2)->info()};
        // With all corners on one line it lies within: the lines are convex.
        if (line_of[t[0]] != line_of[t[1]] || line_of[t[1]] != line_of[t[2]]) patch.triangles.push_back(t);
    }
    auto round = all.incident_vertices(all.infinite_vertex()), end = round;
    do patch.hull.push_back(round->info());
    while (++round != end);
    std::reverse(patch.hull.begin(), patch.hull.end()); // seen from outside they come clockwise
    return patch;
}

} // namespace lp
