// One of the few places that see CGAL.
#include "bed/stacked_mesh.h"
#include <CGAL/Constrained_Delaunay_triangulation_2.h>
#include <CGAL/Constrained_triangulation_plus_2.h>
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Triangulation_face_base_with_info_2.h>
#include <CGAL/Triangulation_vertex_base_with_info_2.h>
#include <tbb/parallel_for.h>
#include <unordered_map>

namespace lp {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using VertexBase = CGAL::Triangulation_vertex_base_with_info_2<int, Kernel>;
using FaceBase =
    CGAL::Constrained_triangulation_face_base_2<Kernel, CGAL::Triangulation_face_base_with_info_2<int, Kernel>>;
using Structure = CGAL::Triangulation_data_structure_2<VertexBase, FaceBase>;
using Triangulation = CGAL::Constrained_triangulation_plus_2<
    CGAL::Constrained_Delaunay_triangulation_2<Kernel, Structure, CGAL::Exact_predicates_tag>>;

/// One height: what lies under it and what lies on it.
class Border {
  public:
    std::vector<Vec2> places;
    std::vector<Triangle> faces;
    std::vector<std::vector<uint32_t>> edges_below, edges_above; ///< places along every edge, in the loops' order

    void make(const Region& below, const Region& above) {
        const Region* sides[2] = {&below, &above};
        for (int side = 0; side < 2; ++side) insert(*sides[side], side);
        if (triangulation_.dimension() < 2) return;
        std::vector<Triangulation::Constraint_id> ids[2];
        for (int side = 0; side < 2; ++side)
            for (auto& [a, b] : ends_[side])
                ids[side].push_back(a == b ? Triangulation::Constraint_id() : triangulation_.insert_constraint(a, b));
        uint32_t n = 0;
        for (auto vertex : triangulation_.finite_vertex_handles()) {
            vertex->info() = int(n++);
            places.emplace_back(vertex->point().x() / clipper_grid, vertex->point().y() / clipper_grid);
        }
        for (int side = 0; side < 2; ++side) read_chains(ids[side], side);
        mark();
        for (auto face : triangulation_.finite_face_handles()) {
            constexpr int only_below = 1, only_above = 2;
            if (face->info() != only_below && face->info() != only_above) continue;
            Triangle t{uint32_t(face->vertex(0)->info()), uint32_t(face->vertex(1)->info()),
                       uint32_t(face->vertex(2)->info())};
            if (face->info() == only_above) std::swap(t[1], t[2]); // a floor looks down
            faces.push_back(t);
        }
        triangulation_.clear();
    }

  private:
    using Vertex = Triangulation::Vertex_handle;
    void insert(const Region& region, int side) {
        for (const ClipperLib::Path& loop : region) {
            std::vector<Vertex> vertices;
            for (const auto& p : loop)
                vertices.push_back(triangulation_.insert({double(p.X), double(p.Y)}, vertices.empty()
                                                                                         ? Triangulation::Face_handle()
                                                                                         : vertices.back()->face()));
            for (size_t i = 0; i < vertices.size(); ++i)
                ends_[side].push_back({vertices[i], vertices[(i + 1) % vertices.size()]});
        }
    }
    static uint64_t key(uint32_t a, uint32_t b) { return uint64_t(std::min(a, b)) << 32 | std::max(a, b); }
    void read_chains(const std::vector<Triangulation::Constraint_id>& ids, int side) {
        auto& chains = side == 0 ? edges_below : edges_above;
        for (size_t i = 0; i < ids.size(); ++i) {
            std::vector<uint32_t> chain;
            const auto& [a, b] = ends_[side][i];
            if (a != b)
                for (auto v = triangulation_.vertices_in_constraint_begin(ids[i]);
                     v != triangulation_.vertices_in_constraint_end(ids[i]); ++v)
                    chain.push_back(uint32_t((*v)->info()));
            if (chain.size() > 1 && chain.front() != uint32_t(a->info())) std::reverse(chain.begin(), chain.end());
            for (size_t k = 1; k < chain.size(); ++k) crosses_[key(chain[k - 1], chain[k])] ^= 1 << side;
            chains.push_back(std::move(chain));
        }
    }
    /// Flood from outside: bit 0 inside the lower region, bit 1 inside the upper one.
    void mark() {
        for (auto face : triangulation_.all_face_handles()) face->info() = -1;
        std::vector<Triangulation::Face_handle> todo{triangulation_.infinite_face()};
        triangulation_.infinite_face()->info() = 0;
        while (!todo.empty()) {
            auto face = todo.back();
            todo.pop_back();
            for (int i = 0; i < 3; ++i) {
                auto other = face->neighbor(i);
                if (other->info() != -1) continue;
                auto a = face->vertex((i + 1) % 3), b = face->vertex((i + 2) % 3);
                int flip = 0;
                if (!triangulation_.is_infinite(a) && !triangulation_.is_infinite(b))
                    if (auto it = crosses_.find(key(uint32_t(a->info()), uint32_t(b->info()))); it != crosses_.end())
                        flip = it->second;
                other->info() = face->info() ^ flip;
                todo.push_back(other);
            }
        }
    }

    Triangulation triangulation_;
    std::vector<std::pair<Vertex, Vertex>> ends_[2];
    std::unordered_map<uint64_t, int> crosses_; ///< bit 0: the lower outline runs there, bit 1: the upper
};

/// Triangles between the chains of one edge below and above.
void zip(const Border& low_border, const std::vector<uint32_t>& low, uint32_t first_low, const Border& high_border,
         const std::vector<uint32_t>& high, uint32_t first_high, std::vector<Triangle>& triangles) {
    if (low.size() < 2 || high.size() < 2) return;
    const Vec2 from = low_border.places[low.front()], along = low_border.places[low.back()] - from;
    auto at = [&](const Border& border, uint32_t i) { return (border.places[i] - from).dot(along); };
    for (size_t i = 0, j = 0; i + 1 < low.size() || j + 1 < high.size();) {
        const uint32_t a = first_low + low[i], c = first_high + high[j];
        const bool lower =
            j + 1 == high.size() || (i + 1 < low.size() && at(low_border, low[i + 1]) <= at(high_border, high[j + 1]));
        if (lower)
            triangles.push_back({a, first_low + low[++i], c});
        else
            triangles.push_back({a, first_high + high[++j], c});
    }
}

} // namespace

TriMesh stacked_mesh(const std::vector<Region>& slabs, const std::vector<double>& heights, const Task& task) {
    std::vector<const Region*> layers;
    std::vector<double> z{heights.empty() ? 0 : heights[0]};
    for (size_t k = 0; k < slabs.size(); ++k) {
        if (!layers.empty() && *layers.back() == slabs[k]) {
            z.back() = heights[k + 1];
        } else {
            layers.push_back(&slabs[k]);
            z.push_back(heights[k + 1]);
        }
    }
    std::vector<Border> borders(layers.size() + 1);
    const Region none;
    tbb::parallel_for(size_t(0), borders.size(), [&](size_t k) {
        if (task.stopped()) return;
        borders[k].make(k > 0 ? *layers[k - 1] : none, k < layers.size() ? *layers[k] : none);
    });
    TriMesh mesh;
    if (task.stopped()) return mesh;
    std::vector<uint32_t> first(borders.size());
    for (size_t k = 0; k < borders.size(); ++k) {
        first[k] = uint32_t(mesh.vertices.size());
        for (const Vec2& p : borders[k].places) mesh.vertices.emplace_back(p.x(), p.y(), z[k]);
        for (const Triangle& t : borders[k].faces)
            mesh.triangles.push_back({first[k] + t[0], first[k] + t[1], first[k] + t[2]});
    }
    for (size_t k = 0; k < layers.size(); ++k)
        for (size_t e = 0; e < borders[k].edges_above.size() && e < borders[k + 1].edges_below.size(); ++e)
            zip(borders[k], borders[k].edges_above[e], first[k], borders[k + 1], borders[k + 1].edges_below[e],
                first[k + 1], mesh.triangles);
    return mesh;
}

} // namespace lp
