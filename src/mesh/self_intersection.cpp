// Facets that pass through each other, by CGAL's box sweep and exact predicates.
#include "mesh/soundness.h"
#include <CGAL/Exact_predicates_inexact_constructions_kernel.h>
#include <CGAL/box_intersection_d.h>
#include <CGAL/intersections.h>

namespace lp {
namespace {

using Kernel = CGAL::Exact_predicates_inexact_constructions_kernel;
using Point = Kernel::Point_3;
using Box = CGAL::Box_intersection_d::Box_with_info_d<double, 3, uint32_t>;

struct Stop {};

Point point(const Vec3& v) {
    return {v.x(), v.y(), v.z()};
}

/// Do two triangles meet in more than what they share? Corners in `shared` places, given first.
bool pass_through(const TriMesh& mesh, uint32_t s, uint32_t t) {
    const Triangle &a = mesh.triangles[s], &b = mesh.triangles[t];
    int shared = 0, ai[3] = {0, 0, 0}, bi[3] = {0, 0, 0};
    for (int i = 0; i < 3; ++i)
        for (int j = 0; j < 3; ++j)
            if (a[i] == b[j]) ai[shared] = i, bi[shared] = j, ++shared;
    auto p = [&](const Triangle& x, int k) { return point(mesh.vertices[x[k % 3]]); };
    if (shared == 0)
        return CGAL::do_intersect(Kernel::Triangle_3(p(a, 0), p(a, 1), p(a, 2)),
                                  Kernel::Triangle_3(p(b, 0), p(b, 1), p(b, 2)));
    if (shared == 1) {
        // Only the side opposite the shared corner can pass through the other facet.
        Kernel::Segment_3 sa(p(a, ai[0] + 1), p(a, ai[0] + 2)), sb(p(b, bi[0] + 1), p(b, bi[0] + 2));
        return CGAL::do_intersect(sa, Kernel::Triangle_3(p(b, 0), p(b, 1), p(b, 2))) ||
               CGAL::do_intersect(sb, Kernel::Triangle_3(p(a, 0), p(a, 1), p(a, 2)));
    }
    if (shared == 2) {
        // Neighbours: wrong only when folded onto each other.
        Point u = p(a, ai[0]), v = p(a, ai[1]), x = p(a, 3 - ai[0] - ai[1]), y = p(b, 3 - bi[0] - bi[1]);
        if (!CGAL::coplanar(u, v, x, y)) return false;
        return CGAL::coplanar_orientation(u, v, x, y) == CGAL::POSITIVE;
    }
    return true;
}

} // namespace

std::vector<std::pair<uint32_t, uint32_t>> intersecting_pairs(const TriMesh& mesh, const Task& task) {
    std::vector<Box> boxes;
    boxes.reserve(mesh.triangles.size());
    for (uint32_t i = 0; i < mesh.triangles.size(); ++i) {
        Box3 box;
        for (int k = 0; k < 3; ++k) box.extend(mesh.corner(i, k));
        boxes.emplace_back(
            CGAL::Bbox_3(box.min().x(), box.min().y(), box.min().z(), box.max().x(), box.max().y(), box.max().z()), i);
    }
    std::vector<std::pair<uint32_t, uint32_t>> pairs;
    size_t looked = 0;
    try {
        CGAL::box_self_intersection_d(boxes.begin(), boxes.end(), [&](const Box& x, const Box& y) {
            if ((++looked & 0xfff) == 0 && task.stopped()) throw Stop{};
            if (pass_through(mesh, x.info(), y.info())) pairs.push_back({x.info(), y.info()});
        });
    } catch (const Stop&) {
    }
    return pairs;
}

} // namespace lp
