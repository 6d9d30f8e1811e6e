#include "shape/picked_place.h"
#include <algorithm>

namespace lp {

TagSet neighbours_of(const Tessellation& t, size_t face) {
    TagSet result;
    for (const EdgeInfo& edge : t.edges) {
        int other = edge.face_a == int(face) ? edge.face_b : edge.face_b == int(face) ? edge.face_a : -1;
        if (other >= 0) add_tags(result, t.faces[size_t(other)].tags);
    }
    return result;
}

static double squared_distance(const Vec3& p, const Vec3& a, const Vec3& b, const Vec3& c) {
    // Ericson, Real-Time Collision Detection, 5.1.5, from memory.
    Vec3 ab = b - a, ac = c - a, ap = p - a;
    double d1 = ab.dot(ap), d2 = ac.dot(ap);
    if (d1 <= 0 && d2 <= 0) return ap.squaredNorm();
    Vec3 bp = p - b;
    double d3 = ab.dot(bp), d4 = ac.dot(bp);
    if (d3 >= 0 && d4 <= d3) return bp.squaredNorm();
    double vc = d1 * d4 - d3 * d2;
    if (vc <= 0 && d1 >= 0 && d3 <= 0) return (ap - d1 / (d1 - d3) * ab).squaredNorm();
    Vec3 cp = p - c;
    double d5 = ab.dot(cp), d6 = ac.dot(cp);
    if (d6 >= 0 && d5 <= d6) return cp.squaredNorm();
    double vb = d5 * d2 - d1 * d6;
    if (vb <= 0 && d2 >= 0 && d6 <= 0) return (ap - d2 / (d2 - d6) * ac).squaredNorm();
    double va = d3 * d6 - d5 * d4;
    if (va <= 0 && d4 - d3 >= 0 && d5 - d6 >= 0) return (bp - (d4 - d3) / (d4 - d3 + d5 - d6) * (c - b)).squaredNorm();
    double denominator = 1 / (va + vb + vc);
    return (ap - ab * vb * denominator - ac * vc * denominator).squaredNorm();
}

double distance_to_face(const Tessellation& t, size_t face, const Vec3& p) {
    double best = 1e300;
    for (size_t i = 0; i < t.face_of.size(); ++i)
        if (t.face_of[i] == face)
            best = std::min(best, squared_distance(p, t.mesh.corner(i, 0), t.mesh.corner(i, 1), t.mesh.corner(i, 2)));
    return std::sqrt(best);
}

double distance_to_edge(const EdgeInfo& edge, const Vec3& point) {
    double nearest = 1e300;
    for (size_t k = 0; k + 1 < edge.points.size(); ++k) {
        const Vec3 d = edge.points[k + 1] - edge.points[k];
        const double s = std::clamp((point - edge.points[k]).dot(d) / std::max(d.squaredNorm(), 1e-300), 0.0, 1.0);
        nearest = std::min(nearest, (edge.points[k] + s * d - point).norm());
    }
    return nearest;
}

} // namespace lp
