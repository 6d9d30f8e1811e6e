// One of the few places that see CGAL.
#include "mesh/simplify.h"
#include "mesh/cgal_surface.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include <CGAL/Simple_cartesian.h>
#include <CGAL/Surface_mesh_simplification/Policies/Edge_collapse/Bounded_normal_change_placement.h>
#include <CGAL/Surface_mesh_simplification/Policies/Edge_collapse/GarlandHeckbert_plane_policies.h>
#include <CGAL/Surface_mesh_simplification/edge_collapse.h>
#include <atomic>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

TriMesh without_degenerate(TriMesh mesh) {
    std::erase_if(mesh.triangles, [](const Triangle& t) { return t[0] == t[1] || t[1] == t[2] || t[2] == t[0]; });
    mesh.tags.clear();
    return welded(mesh);
}

using Kernel = CGAL::Simple_cartesian<double>;
using Surface = CGAL::Surface_mesh<Kernel::Point_3>;
namespace sms = CGAL::Surface_mesh_simplification;

/// Stops where the cheapest collapse left costs more: the cost is the square of a distance, summed over the planes of
/// the facets that met there, weighted by their areas.
struct Dearer {
    double most_cost;
    template <class Profile> bool operator()(double cost, const Profile&, size_t, size_t) const {
        return cost > most_cost;
    }
};

TriMesh collapsed(const Surface& whole, double cost) {
    Surface surface = whole;
    using Policies = sms::GarlandHeckbert_plane_policies<Surface, Kernel>;
    const Policies policies(surface);
    const sms::Bounded_normal_change_placement<Policies::Get_placement> placement(policies.get_placement());
    sms::edge_collapse(surface, Dearer{cost}, CGAL::parameters::get_cost(policies.get_cost()).get_placement(placement));
    return without_degenerate(triangles_of(surface));
}

/// The largest distance of places of one surface from the other; `parts` of each facet's edge.
double farthest(const TriMesh& of, const DistanceTree& from, int parts, double stop_above, const Task& task) {
    std::atomic<double> largest = 0;
    tbb::parallel_for(tbb::blocked_range<size_t>(0, of.triangles.size(), 64), [&](const tbb::blocked_range<size_t>& r) {
        double most = 0;
        for (size_t t = r.begin(); t < r.end() && !task.stopped() && largest <= stop_above; ++t) {
            const Vec3 &a = of.corner(t, 0), u = (of.corner(t, 1) - a) / parts, v = (of.corner(t, 2) - a) / parts;
            for (int i = 0; i <= parts; ++i)
                for (int j = 0; i + j <= parts; ++j) most = std::max(most, from.closest(a + u * i + v * j).distance_mm);
        }
        for (double before = largest; before < most && !largest.compare_exchange_weak(before, most);) {
        }
    });
    return largest;
}

/// How far apart two surfaces are; stops where it is more than `limit`.
double apart(const TriMesh& was, const DistanceTree& was_tree, const TriMesh& is, double limit, const Task& task) {
    constexpr int fine = 12, coarse = 4, corners_and_middles = 2;
    constexpr size_t many = 20'000;
    const double there = farthest(was, DistanceTree(is), corners_and_middles, limit, task);
    if (there > limit) return there;
    return std::max(there, farthest(is, was_tree, is.triangles.size() > many ? coarse : fine, limit, task));
}

bool crosses(const TriMesh& mesh, const Task& task) {
    const auto found = check_soundness(mesh, {.self_intersections = true}, task).self_intersecting;
    return found && found->count > 0;
}

} // namespace

Expected<Simplified> simplify_mesh(const TriMesh& given, const SimplifyOptions& options, const Task& task) {
    const TriMesh mesh = without_degenerate(given);
    if (mesh.empty())
        return problem(ProblemCode::Geometry, "There is nothing to simplify.", "Choose a mesh with facets.");
    if (!(options.deviation_mm > 0))
        return problem(ProblemCode::Range, "A deviation of 0 leaves every facet.", "Use 0.001 mm or more.");
    const bool closed = is_closed(mesh), crossed = crosses(mesh, task);
    const DistanceTree tree(mesh);
    const auto surface = surface_of<Kernel::Point_3>(mesh);
    if (!surface)
        return problem(ProblemCode::Geometry, "Some of its edges have more than two facets, or run the same way twice.",
                       "Mend it first.");
    const double area = mass_properties(mesh).area_mm2 / double(mesh.triangles.size()) * 6; // round a usual corner
    double cost = 64 * options.deviation_mm * options.deviation_mm * area;
    constexpr int tries = 8;
    for (int i = 0; i < tries; ++i, cost /= 4) {
        if (task.stopped()) return cancelled();
        task.tell("Collapsing edges", double(i) / tries);
        TriMesh fewer = collapsed(*surface, cost);
        if (fewer.triangles.size() >= mesh.triangles.size()) break;
        if (fewer.empty() || is_closed(fewer) != closed) continue;
        task.tell("Measuring what is left", (i + 0.5) / tries);
        const double deviation = apart(mesh, tree, fewer, options.deviation_mm, task);
        if (task.stopped()) return cancelled();
        if (deviation > options.deviation_mm || (!crossed && crosses(fewer, task))) continue;
        return Simplified{std::move(fewer), deviation};
    }
    return Simplified{mesh, 0};
}

} // namespace lp
