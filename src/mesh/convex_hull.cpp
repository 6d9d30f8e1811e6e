#include "mesh/convex_hull.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/Surface_mesh.h>
#include <CGAL/convex_hull_3.h>
#include <algorithm>
#include <limits>
#include <numbers>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// Whether four of the points span a volume: the library is not asked about anything flat.
bool spans_a_volume(const std::vector<Vec3>& points) {
    auto farthest = [&](auto off) {
        const Vec3* best = &points.front();
        for (const Vec3& p : points)
            if (off(p) > off(*best)) best = &p;
        return *best;
    };
    const Vec3 a = points.front(), b = farthest([&](const Vec3&p) { return (p - a).squaredNorm(); });
    const Vec3 along = (b - a).stableNormalized();
    const Vec3 c = farthest([&](const Vec3& p) { return (p - a).cross(along).squaredNorm(); });
    const Vec3 across = (b - a).cross(c - a).stableNormalized();
    const Vec3 d = farthest([&](const Vec3& p) { return std::fabs((p - a).dot(across)); });
    return std::fabs((d - a).dot(across)) > 1e-9 * std::max(1e-6, (b - a).norm());
}

} // namespace

TriMesh convex_hull(const std::vector<Vec3>& points) {
    using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
    using Solid = CGAL::Surface_mesh<Kernel::Point_3>;
    std::vector<Vec3> finite;
    for (const Vec3& p : points)
        if (p.allFinite()) finite.push_back(p);
    TriMesh hull;
    if (finite.size() < 4 || !spans_a_volume(finite)) return hull;
    std::vector<Kernel::Point_3> in;
    in.reserve(finite.size());
    for (const Vec3& p : finite) in.emplace_back(p.x(), p.y(), p.z());
    Solid solid;
    CGAL::convex_hull_3(in.begin(), in.end(), solid);
    for (Solid::Vertex_index v : solid.vertices()) {
        const auto& p = solid.point(v);
        hull.vertices.push_back({p.x(), p.y(), p.z()});
    }
    for (Solid::Face_index f : solid.faces()) {
        Triangle t{};
        size_t k = 0;
        for (Solid::Vertex_index v : solid.vertices_around_face(solid.halfedge(f)))
            if (k < 3) t[k++] = uint32_t(v.idx());
        hull.triangles.push_back(t);
    }
    return hull;
}

std::vector<Vec3> even_directions(size_t count) {
    std::vector<Vec3> all;
    for (size_t i = 0; i < count; ++i) {
        const double z = 1 - (2.0 * double(i) + 1) / double(count), r = std::sqrt(1 - z * z),
                     angle = std::numbers::pi * (3 - std::sqrt(5.0)) * double(i);
        all.push_back({r * std::cos(angle), r * std::sin(angle), z});
    }
    return all;
}

namespace {

/// Points in single precision about their middle, coordinate by coordinate: many are asked for at once.
struct Cloud {
    Vec3 middle;
    Eigen::ArrayXf x, y, z;
    explicit Cloud(const std::vector<Vec3>& points) {
        Box3 box;
        for (const Vec3& p : points) box.extend(p);
        middle = box.center();
        x.resize(Eigen::Index(points.size()));
        y.resize(x.size());
        z.resize(x.size());
        for (Eigen::Index i = 0; i < x.size(); ++i) {
            const Vec3f p = (points[size_t(i)] - middle).cast<float>();
            x[i] = p.x(), y[i] = p.y(), z[i] = p.z();
        }
    }
    /// The point farthest out along a direction.
    size_t farthest(const Vec3& direction) const {
        const Vec3f d = direction.cast<float>();
        constexpr Eigen::Index block = 2048; // stays in the cache
        float most = -std::numeric_limits<float>::infinity();
        Eigen::Index best = 0;
        Eigen::ArrayXf out(block);
        for (Eigen::Index from = 0; from < x.size(); from += block) {
            const Eigen::Index n = std::min(block, x.size() - from);
            out.head(n) = x.segment(from, n) * d.x() + y.segment(from, n) * d.y() + z.segment(from, n) * d.z();
            const float here = out.head(n).maxCoeff();
            if (here <= most) continue;
            most = here;
            Eigen::Index at = 0;
            out.head(n).maxCoeff(&at);
            best = from + at;
        }
        return size_t(best);
    }
    using Vec3f = Eigen::Vector3f;
};

} // namespace

TriMesh outer_hull(const std::vector<Vec3>& points, double within_mm) {
    constexpr size_t few = 3000, first_ways = 600, rounds = 12;
    std::vector<Vec3> finite;
    for (const Vec3& p : points)
        if (p.allFinite()) finite.push_back(p);
    if (finite.size() <= few) return convex_hull(finite);
    const Cloud cloud(finite);
    std::vector<uint8_t> taken(finite.size(), 0);
    std::vector<Vec3> outer;
    auto take = [&](const std::vector<Vec3>& ways, const auto& stands_out) {
        std::vector<size_t> found(ways.size());
        tbb::parallel_for(size_t(0), ways.size(), [&](size_t i) { found[i] = cloud.farthest(ways[i]); });
        bool any = false;
        for (size_t i = 0; i < ways.size(); ++i) {
            if (taken[found[i]] || !stands_out(i, finite[found[i]])) continue;
            taken[found[i]] = 1;
            outer.push_back(finite[found[i]]);
            any = true;
        }
        return any;
    };
    take(even_directions(first_ways), [](size_t, const Vec3&) { return true; });
    TriMesh hull = convex_hull(outer);
    for (size_t round = 0; round < rounds && !hull.empty(); ++round) {
        std::vector<Vec3> ways, at;
        for (size_t i = 0; i < hull.triangles.size(); ++i) {
            const Vec3 area = hull.area_vector(i);
            if (!(area.norm() > 0)) continue;
            ways.push_back(area.normalized());
            at.push_back(hull.corner(i, 0));
        }
        if (!take(ways, [&](size_t i, const Vec3& p) { return (p - at[i]).dot(ways[i]) > within_mm; })) break;
        hull = convex_hull(outer);
    }
    return hull.empty() ? convex_hull(finite) : hull; // all in a plane along every way that was tried
}

} // namespace lp
