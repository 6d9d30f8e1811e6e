#include "mesh/envelope_deviation.h"
#include "shape/mesh_distance.h"
#include <tbb/blocked_range.h>
#include <tbb/parallel_reduce.h>

namespace lp {

double envelope_deviation(const TriMesh& body, const TriMesh& envelope, double by_mm, const Task& task) {
    if (body.triangles.empty() || envelope.triangles.empty()) return std::numeric_limits<double>::infinity();
    DistanceTree of_body(body), of_envelope(envelope);
    using Range = tbb::blocked_range<size_t>;
    auto worst = [&](const TriMesh& mesh, auto deviation_at) {
        return tbb::parallel_reduce(
            Range(0, mesh.vertices.size()), 0.0,
            [&](const Range& range, double largest) {
                for (size_t i = range.begin(); i < range.end() && !task.stopped(); ++i)
                    largest = std::max(largest, deviation_at(mesh.vertices[i]));
                return largest;
            },
            [](double a, double b) { return std::max(a, b); });
    };
    double outward = worst(envelope, [&](const Vec3& p) {
        double d = std::fabs(of_body.closest(p, 2 * by_mm + 1).distance_mm - by_mm);
        return of_body.inside(p) ? std::numeric_limits<double>::infinity() : d;
    });
    double inward = worst(body, [&](const Vec3& p) {
        if (!of_envelope.inside(p)) return std::numeric_limits<double>::infinity();
        return std::max(0.0, by_mm - of_envelope.closest(p).distance_mm);
    });
    return std::max(outward, inward);
}

} // namespace lp
