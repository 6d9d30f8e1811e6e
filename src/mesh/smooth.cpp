#include "mesh/smooth.h"
#include "mesh/topology.h"
#include <algorithm>
#include <cmath>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// Corners that each corner is drawn to: all beside it, along an edge that is kept the two on it, at ends of such edges
/// none.
std::vector<std::vector<uint32_t>> drawn_to(const TriMesh& mesh, double keep_edges_deg) {
    const Topology topology = build_topology(mesh);
    const double smooth = std::cos(radians(keep_edges_deg));
    std::vector<std::vector<uint32_t>> all(mesh.vertices.size()), kept(mesh.vertices.size());
    for (const MeshEdge& e : topology.edges) {
        const Vec3 n = mesh.area_vector(topology.half_edges[e.first].triangle).stableNormalized(),
                   m = mesh.area_vector(topology.half_edges[e.first + 1].triangle).stableNormalized();
        const bool sharp = e.count != 2 || n.dot(m) < smooth;
        for (const auto& [a, b] : {std::pair(e.a, e.b), std::pair(e.b, e.a)}) {
            all[a].push_back(b);
            if (sharp) kept[a].push_back(b);
        }
    }
    for (size_t v = 0; v < all.size(); ++v) {
        if (kept[v].empty()) continue;
        all[v] = kept[v].size() == 2 ? kept[v] : std::vector<uint32_t>();
    }
    return all;
}

void step(std::vector<Vec3>& at, const std::vector<std::vector<uint32_t>>& beside, double share) {
    std::vector<Vec3> next(at.size());
    tbb::parallel_for(size_t(0), at.size(), [&](size_t v) {
        next[v] = at[v];
        if (beside[v].empty()) return;
        // Near ones count more (Fujiwara, 1995): corners hardly slide along the surface.
        Vec3 middle = Vec3::Zero();
        double weight = 0;
        for (uint32_t w : beside[v]) {
            const double near = 1 / std::max((at[w] - at[v]).norm(), 1e-9);
            middle += near * at[w];
            weight += near;
        }
        next[v] += share * (middle / weight - at[v]);
    });
    at.swap(next);
}

/// Moves free corners out along their normals until the volume is what it was.
void give_back(TriMesh& mesh, const std::vector<std::vector<uint32_t>>& beside, double volume_mm3) {
    for (int round = 0; round < 4; ++round) {
        const double missing = volume_mm3 - mass_properties(mesh).volume_mm3;
        std::vector<Vec3> normal(mesh.vertices.size(), Vec3::Zero());
        for (size_t i = 0; i < mesh.triangles.size(); ++i)
            for (uint32_t v : mesh.triangles[i]) normal[v] += mesh.area_vector(i);
        double gain = 0; // of volume for a millimetre: a third of the facets round each corner
        for (size_t v = 0; v < normal.size(); ++v)
            if (!beside[v].empty()) gain += normal[v].norm() / 6;
        if (!(gain > 0) || std::fabs(missing) < 1e-9 * std::fabs(volume_mm3)) return;
        const double by = missing / gain;
        for (size_t v = 0; v < normal.size(); ++v)
            if (!beside[v].empty()) mesh.vertices[v] += by * normal[v].stableNormalized();
    }
}

} // namespace

Expected<Smoothed> smooth_mesh(const TriMesh& mesh, const SmoothOptions& options, const Task& task) {
    if (!is_closed(mesh))
        return problem(ProblemCode::Open, "The mesh is open: its volume cannot be kept.", "Mend it first.");
    constexpr double there = 0.5, back = -0.53;
    const auto beside = drawn_to(mesh, options.keep_edges_deg);
    Smoothed result{mesh, 0};
    for (int round = 0; round < options.rounds; ++round) {
        if (task.stopped()) return cancelled();
        task.tell("Smoothing", double(round) / options.rounds);
        step(result.mesh.vertices, beside, there);
        step(result.mesh.vertices, beside, back);
    }
    give_back(result.mesh, beside, mass_properties(mesh).volume_mm3);
    for (size_t v = 0; v < mesh.vertices.size(); ++v)
        result.largest_move_mm = std::max(result.largest_move_mm, (result.mesh.vertices[v] - mesh.vertices[v]).norm());
    return result;
}

} // namespace lp
