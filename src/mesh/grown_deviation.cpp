#include "mesh/grown_deviation.h"
#include "mesh/topology.h"
#include <algorithm>
#include <cmath>
#include <mutex>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double tells_mm = 0.0005; // what a half may differ from the line between its ends
constexpr double finest_mm = 0.01;  // shorter edges are not halved
constexpr double apart_mm = 0.4;    // of places on large facets of the body
constexpr int round_steps = 4;      // from one facet's normal to the next round an edge

/// The largest of what several threads find.
class Largest {
  public:
    void offer(double d, const Vec3& at) {
        std::lock_guard lock(mutex_);
        if (d > found_.largest_mm) found_ = {d, at};
    }
    GrownDeviation found() const { return found_; }

  private:
    std::mutex mutex_;
    GrownDeviation found_;
};

/// One facet, halved where its deviation bends.
class Facet {
  public:
    Facet(const DistanceField& field, double distance) : field_(field), distance_(distance) {}

    GrownDeviation worst(const Vec3& a, const Vec3& b, const Vec3& c) {
        look({a, off(a)}, {b, off(b)}, {c, off(c)}, 0);
        return found_;
    }

  private:
    struct Place {
        Vec3 at;
        double off; ///< too far out or in, with its sign
    };
    double off(const Vec3& p) {
        const double d = field_.nearest(p, distance_ + 1).distance_mm - distance_;
        if (std::fabs(d) > found_.largest_mm) found_ = {std::fabs(d), p};
        return d;
    }
    void look(const Place& a, const Place& b, const Place& c, int depth) {
        constexpr int least = 1, deepest = 6;
        const double longest = std::max({(b.at - a.at).norm(), (c.at - b.at).norm(), (a.at - c.at).norm()});
        if (longest < finest_mm) return;
        auto half = [&](const Place& p, const Place& q) {
            const Vec3 at = (p.at + q.at) / 2;
            return Place{at, off(at)};
        };
        const Place ab = half(a, b), bc = half(b, c), ca = half(c, a);
        const double bend = std::max({std::fabs(ab.off - (a.off + b.off) / 2), std::fabs(bc.off - (b.off + c.off) / 2),
                                      std::fabs(ca.off - (c.off + a.off) / 2)});
        if (depth >= deepest || (depth >= least && bend < tells_mm)) return;
        look(a, ab, ca, depth + 1);
        look(ab, b, bc, depth + 1);
        look(ca, bc, c, depth + 1);
        look(ab, bc, ca, depth + 1);
    }

    const DistanceField& field_;
    double distance_;
    GrownDeviation found_;
};

} // namespace

GrownDeviation grown_deviation(const TriMesh& surface, const TriMesh& body, const DistanceField& field,
                               const std::vector<Vec3>& seeds, double distance_mm, bool inward, const Task& task) {
    Largest largest;
    tbb::parallel_for(size_t(0), surface.triangles.size(), [&](size_t i) {
        if (task.stopped()) return;
        const GrownDeviation own =
            Facet(field, distance_mm).worst(surface.corner(i, 0), surface.corner(i, 1), surface.corner(i, 2));
        largest.offer(own.largest_mm, own.where);
    });
    const DistanceField back(surface);
    auto look_back = [&](const Vec3& p) { largest.offer(back.nearest(p, 1.0).distance_mm, p); };
    tbb::parallel_for(size_t(0), seeds.size(), [&](size_t i) { look_back(seeds[i]); });
    // Straight over the body: a place counts when no other part of the body is nearer to it.
    const double side = inward ? -distance_mm : distance_mm;
    auto look_over = [&](const Vec3& on, const Vec3& out) {
        const Vec3 p = on + side * out;
        if (field.nearest(p, distance_mm * 1.5).distance_mm > distance_mm * (1 - 1e-9) - 1e-9) look_back(p);
    };
    tbb::parallel_for(size_t(0), body.triangles.size(), [&](size_t i) {
        if (task.stopped()) return;
        const Vec3 &a = body.corner(i, 0), &b = body.corner(i, 1), &c = body.corner(i, 2);
        const Vec3 n = body.area_vector(i).stableNormalized();
        const double long_mm = std::max({(b - a).norm(), (c - b).norm(), (a - c).norm()});
        const int parts = std::clamp(int(std::ceil(long_mm / apart_mm)), 1, 24);
        for (int u = 0; u <= parts; ++u)
            for (int v = 0; u + v <= parts; ++v) look_over(a + (b - a) * u / parts + (c - a) * v / parts, n);
    });
    const Topology topology = build_topology(body);
    tbb::parallel_for(size_t(0), topology.edges.size(), [&](size_t e) {
        const MeshEdge& edge = topology.edges[e];
        if (edge.count != 2 || task.stopped()) return;
        const Vec3 n = body.area_vector(topology.half_edges[edge.first].triangle).stableNormalized(),
                   m = body.area_vector(topology.half_edges[edge.first + 1].triangle).stableNormalized();
        if (n.dot(m) > 0.9999) return;
        const Vec3 middle = (body.vertices[edge.a] + body.vertices[edge.b]) / 2;
        for (int k = 1; k < round_steps; ++k) {
            const Vec3 out = (n * (round_steps - k) + m * k).stableNormalized();
            look_over(middle, out);
            look_over(body.vertices[edge.a], out);
        }
    });
    GrownDeviation found = largest.found();
    found.largest_mm += tells_mm;
    return found;
}

} // namespace lp
