#include "fit/measuring.h"
#include "base/quantity.h"
#include "shape/mesh_distance.h"

namespace lp {
namespace {

TriMesh surface_of(const Measurable& thing) {
    const Tessellation& t = thing.body.tessellation();
    TriMesh mesh;
    if (thing.kind == Measurable::Kind::Edge) { // an edge as facets without width
        const EdgeInfo& edge = t.edges.at(thing.index);
        for (size_t k = 1; k < edge.points.size(); ++k) {
            auto base = uint32_t(mesh.vertices.size());
            mesh.vertices.insert(mesh.vertices.end(), {edge.points[k - 1], edge.points[k], edge.points[k]});
            mesh.triangles.push_back({base, base + 1, base + 2});
        }
    } else {
        mesh.vertices = t.mesh.vertices;
        for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
            if (thing.kind == Measurable::Kind::Whole || t.face_of[i] == thing.index)
                mesh.triangles.push_back(t.mesh.triangles[i]);
    }
    return transformed(mesh, thing.place);
}

/// Normal of a flat face, axis of a round one, way of a straight edge; nothing for the rest.
std::optional<Vec3> direction_of(const Measurable& thing) {
    const Tessellation& t = thing.body.tessellation();
    if (thing.kind == Measurable::Kind::Face) {
        const FaceInfo& face = t.faces.at(thing.index);
        if (face.kind == SurfaceKind::Sphere || face.kind == SurfaceKind::Other) return std::nullopt;
        return Vec3(thing.place.linear() * face.direction);
    }
    if (thing.kind == Measurable::Kind::Edge) {
        const auto& p = t.edges.at(thing.index).points;
        Vec3 way = p.back() - p.front();
        if (way.norm() < 1e-9) return std::nullopt;
        way.normalize();
        for (const Vec3& q : p) // straight
            if ((q - p.front() - (q - p.front()).dot(way) * way).norm() > 1e-6) return std::nullopt;
        return Vec3(thing.place.linear() * way);
    }
    return std::nullopt;
}

const FaceInfo* round_face(const Measurable& thing) {
    if (thing.kind != Measurable::Kind::Face) return nullptr;
    const FaceInfo& face = thing.body.tessellation().faces.at(thing.index);
    bool round =
        face.kind == SurfaceKind::Cylinder || face.kind == SurfaceKind::Cone || face.kind == SurfaceKind::Sphere;
    return round ? &face : nullptr;
}

} // namespace

Measured measure_between(const Measurable& a, const Measurable& b) {
    Measured result;
    ClosestPair pair = closest_pair(DistanceTree(surface_of(a)), DistanceTree(surface_of(b)));
    result.distance_mm = pair.distance_mm;
    result.at_a = pair.at_a;
    result.at_b = pair.at_b;
    auto way_a = direction_of(a), way_b = direction_of(b);
    if (way_a && way_b) {
        double angle = degrees(std::acos(std::clamp(std::fabs(way_a->dot(*way_b)), 0.0, 1.0)));
        bool mixed = (a.kind == Measurable::Kind::Edge) != (b.kind == Measurable::Kind::Edge);
        const Measurable& face = a.kind == Measurable::Kind::Face ? a : b;
        // Between an edge and a flat face the angle to the face, not to its normal.
        if (mixed && face.body.tessellation().faces[face.index].kind == SurfaceKind::Plane) angle = 90 - angle;
        result.angle_deg = angle;
    }
    const FaceInfo *round_a = round_face(a), *round_b = round_face(b);
    if (round_a && round_b) {
        Vec3 d = b.place * round_b->centre - a.place * round_a->centre;
        Vec3 axis = a.place.linear() * round_a->direction;
        bool balls = round_a->kind == SurfaceKind::Sphere && round_b->kind == SurfaceKind::Sphere;
        if (!balls && axis.cross(b.place.linear() * round_b->direction).norm() < 1e-6) {
            if (a.body.is_exact() && b.body.is_exact())
                d = b.place * round_b->axis_point - a.place * round_a->axis_point;
            d -= d.dot(axis) * axis;
        } else if (balls && a.body.is_exact() && b.body.is_exact()) {
            d = b.place * round_b->axis_point - a.place * round_a->axis_point;
        }
        result.centres_mm = d.norm();
    }
    return result;
}

std::optional<Measured> thickness_at(const Body& body, size_t face, const Vec3& point) {
    const Tessellation& t = body.tessellation();
    // The facet of this face nearest to the place: its normal is the way in.
    double nearest = std::numeric_limits<double>::infinity();
    Vec3 from = point, normal = Vec3::UnitZ();
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
        if (t.face_of[i] != face) continue;
        Vec3 a = t.mesh.corner(i, 0), b = t.mesh.corner(i, 1), c = t.mesh.corner(i, 2);
        Vec3 on = closest_on_triangle(point, a, b, c);
        Vec3 n = (b - a).cross(c - a);
        if ((on - point).norm() >= nearest || n.norm() < 1e-14) continue;
        nearest = (on - point).norm();
        from = on;
        normal = n.normalized();
    }
    if (!std::isfinite(nearest)) return std::nullopt;
    ClosestPoint end = DistanceTree(t.mesh).first_hit(from, -normal, 1e-6);
    if (end.triangle == ~0u) return std::nullopt;
    Measured result;
    result.at_a = from;
    result.at_b = end.point;
    result.distance_mm = (end.point - from).norm();
    return result;
}

} // namespace lp
