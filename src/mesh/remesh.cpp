// One of the few places that see CGAL.
#include "mesh/remesh.h"
#include "mesh/cgal_surface.h"
#include "shape/mesh_distance.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Polygon_mesh_processing/detect_features.h>
#include <CGAL/Polygon_mesh_processing/remesh.h>
#include <atomic>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

namespace pmp = CGAL::Polygon_mesh_processing;
using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Surface = CGAL::Surface_mesh<Kernel::Point_3>;

double farthest(const TriMesh& of, const TriMesh& from) {
    const DistanceTree tree(from);
    std::atomic<double> largest = 0;
    tbb::parallel_for(size_t(0), of.vertices.size(), [&](size_t v) {
        const double d = tree.closest(of.vertices[v]).distance_mm;
        for (double was = largest; d > was && !largest.compare_exchange_weak(was, d);) {
        }
    });
    return largest;
}

} // namespace

Expected<Remeshed> remesh(const TriMesh& mesh, const RemeshOptions& options, const Task& task) {
    constexpr double most_facets = 2e6;
    const double area = mass_properties(mesh).area_mm2;
    const double facets = area / (std::sqrt(3.0) / 4 * options.edge_mm * options.edge_mm);
    if (!(options.edge_mm > 0) || !(facets < most_facets))
        return problem(ProblemCode::Range, "So short edges make more than two million facets.", "Use longer ones.");
    auto surface = is_closed(mesh) ? surface_of<Kernel::Point_3>(mesh) : std::nullopt;
    if (!surface)
        return problem(ProblemCode::Open, "The mesh is open, or crowded somewhere: it has no one surface.",
                       "Mend it first.");
    try {
        auto kept = surface->add_property_map<Surface::Edge_index, bool>("e:kept", false).first;
        pmp::detect_sharp_edges(*surface, options.keep_edges_deg, kept);
        std::vector<Surface::Edge_index> sharp;
        for (auto e : surface->edges())
            if (kept[e]) sharp.push_back(e);
        // Those that stay are parted to length before, as they are not touched after.
        pmp::split_long_edges(sharp, options.edge_mm, *surface, CGAL::parameters::edge_is_constrained_map(kept));
        constexpr int rounds = 3;
        for (int round = 0; round < rounds; ++round) {
            if (task.stopped()) return cancelled();
            task.tell("Laying facets anew", double(round) / rounds);
            pmp::isotropic_remeshing(
                surface->faces(), options.edge_mm, *surface,
                CGAL::parameters::number_of_iterations(1).edge_is_constrained_map(kept).protect_constraints(true));
        }
    } catch (const std::exception& e) {
        return problem(ProblemCode::Geometry, std::string("The surface could not be laid anew: ") + e.what() + ".",
                       "Mend it first, or use another length.");
    }
    Remeshed result{triangles_of(*surface), 0};
    result.largest_deviation_mm = std::max(farthest(result.mesh, mesh), farthest(mesh, result.mesh));
    return result;
}

} // namespace lp
