#include "mesh/simplify.h"
#include "mesh/soundness.h"
#include "shape/mesh_distance.h"
#include <atomic>
#include <meshoptimizer.h>
#include <tbb/blocked_range.h>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

TriMesh without_degenerate(TriMesh mesh) {
    std::erase_if(mesh.triangles, [](const Triangle& t) { return t[0] == t[1] || t[1] == t[2] || t[2] == t[0]; });
    mesh.tags.clear();
    return welded(mesh);
}

TriMesh collapsed(const TriMesh& mesh, size_t to_facets, double error_mm) {
    const Box3 box = bounding_box(mesh);
    std::vector<float> places;
    for (const Vec3& v : mesh.vertices)
        for (int k = 0; k < 3; ++k) places.push_back(float(v[k] - box.center()[k]));
    std::vector<unsigned> indices, fewer(mesh.triangles.size() * 3);
    for (const Triangle& t : mesh.triangles) indices.insert(indices.end(), t.begin(), t.end());
    constexpr size_t stride = 3 * sizeof(float);
    const float scale = meshopt_simplifyScale(places.data(), mesh.vertices.size(), stride);
    const size_t count =
        meshopt_simplify(fewer.data(), indices.data(), indices.size(), places.data(), mesh.vertices.size(), stride,
                         to_facets * 3, float(error_mm) / scale, meshopt_SimplifyLockBorder, nullptr);
    TriMesh result;
    result.vertices = mesh.vertices; // collapsed onto corners that are there: doubles stay as they were
    for (size_t i = 0; i + 2 < count; i += 3) result.triangles.push_back({fewer[i], fewer[i + 1], fewer[i + 2]});
    return without_degenerate(std::move(result));
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
    constexpr int fine = 20, corners_and_middles = 2;
    const double there = farthest(was, DistanceTree(is), corners_and_middles, limit, task);
    if (there > limit) return there;
    return std::max(there, farthest(is, was_tree, is.triangles.size() > 100'000 ? 4 : fine, limit, task));
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
    double error = options.deviation_mm;
    constexpr int tries = 6;
    for (int i = 0; i < tries; ++i, error *= 0.5) {
        if (task.stopped()) return cancelled();
        task.tell("Collapsing edges", double(i) / tries);
        TriMesh fewer = collapsed(mesh, options.to_facets, error);
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
