// One of the few places that see CGAL.
#include "mesh/rebuild.h"
#include "base/quantity.h"
#include "mesh/cgal_surface.h"
#include "mesh/soundness.h"
#include "shape/distance_field.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/alpha_wrap_3.h>
#include <atomic>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Point = Kernel::Point_3;
constexpr double usual_share = 1.0 / 100, most_share = 0.1, offset_share = 1.0 / 20;

/// Empty where the library gives up.
TriMesh wrapped(const TriMesh& facets, double alpha, double offset) {
    std::vector<Point> points;
    std::vector<std::array<size_t, 3>> faces;
    for (const Vec3& v : facets.vertices) points.emplace_back(v.x(), v.y(), v.z());
    for (const Triangle& t : facets.triangles) faces.push_back({t[0], t[1], t[2]});
    CGAL::Surface_mesh<Point> skin;
    try {
        CGAL::alpha_wrap_3(points, faces, alpha, offset, skin);
    } catch (const std::exception&) {
        return {};
    }
    return welded(triangles_of(skin));
}

double farthest(const TriMesh& of, const TriMesh& from) {
    const DistanceField field(from);
    std::atomic<double> largest = 0;
    tbb::parallel_for(size_t(0), of.triangles.size(), [&](size_t i) {
        const Vec3 middle = (of.corner(i, 0) + of.corner(i, 1) + of.corner(i, 2)) / 3;
        double most = field.nearest(middle).distance_mm;
        for (int k = 0; k < 3; ++k) most = std::max(most, field.nearest(of.corner(i, k)).distance_mm);
        for (double before = largest; before < most && !largest.compare_exchange_weak(before, most);) {
        }
    });
    return largest;
}

} // namespace

Expected<Rebuilt> rebuild_mesh(const TriMesh& mesh, const RebuildOptions& options, const Task& task) {
    const TriMesh facets = check_soundness(mesh, {.self_intersections = false}, task).kept;
    if (task.stopped()) return cancelled();
    if (facets.empty())
        return problem(ProblemCode::Geometry, "Nothing usable is left of this mesh.", "Bring in another file.");
    const double diagonal = bounding_box(facets).sizes().norm(), area = mass_properties(facets).area_mm2;
    double within = options.within_mm == 0 ? diagonal * usual_share : options.within_mm;
    if (!(within > 0) || within > diagonal)
        return problem(ProblemCode::Range,
                       "A skin cannot bridge holes within " + format_quantity(options.within_mm, QuantityKind::Length) +
                           ".",
                       "Use more than 0 and less than its size.");
    constexpr double most_facets = 2e6, facet_share = 0.5; // about so many squares of alpha is a facet
    if (area / (facet_share * within * within) > most_facets)
        return problem(ProblemCode::Range,
                       "A skin as fine as " + format_quantity(within, QuantityKind::Length, 3) +
                           " would take more than 2,000,000 facets.",
                       "Use " +
                           format_quantity(std::sqrt(area / facet_share / most_facets) * 1.1, QuantityKind::Length, 2) +
                           " or more.");
    // A skin about the facets alone holds little, and much more as soon as its holes are bridged.
    constexpr double much_more = 1.5;
    auto skin_within = [&](double by) {
        task.tell("Wrapping its facets", 0.3);
        return wrapped(facets, by, by * offset_share);
    };
    TriMesh skin = skin_within(within);
    for (; within <= diagonal * most_share; within *= 2) {
        if (task.stopped()) return cancelled();
        TriMesh coarser = skin_within(2 * within);
        if (task.stopped()) return cancelled();
        const double holds = mass_properties(skin).volume_mm3;
        if (holds > 0 && mass_properties(coarser).volume_mm3 < much_more * holds) {
            task.tell("Measuring it", 0.9);
            const double largest = farthest(skin, facets);
            return Rebuilt{std::move(skin), within, largest};
        }
        skin = std::move(coarser);
    }
    return problem(ProblemCode::Geometry,
                   "Its facets enclose nothing, even with holes of " +
                       format_quantity(2 * within, QuantityKind::Length, 1) + " bridged.",
                   "Much of its surface is missing: fill that first, or bring in another file.");
}

} // namespace lp
