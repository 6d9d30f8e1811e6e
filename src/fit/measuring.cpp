#include "fit/measuring.h"
#include "base/quantity.h"
#include "mesh/region.h"
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

/// Of a thing that is a face.
std::optional<FaceInfo> face_of(const Measurable& thing) {
    if (thing.kind != Measurable::Kind::Face) return std::nullopt;
    return recognised_face(thing.body, thing.index);
}

/// Normal of a flat face, axis of a round one, way of a straight edge; nothing for the rest.
std::optional<Vec3> direction_of(const Measurable& thing, const std::optional<FaceInfo>& face) {
    const Tessellation& t = thing.body.tessellation();
    if (face) {
        if (face->kind == SurfaceKind::Sphere || face->kind == SurfaceKind::Other) return std::nullopt;
        return Vec3(thing.place.linear() * face->direction);
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

bool is_round(const std::optional<FaceInfo>& face) {
    return face && (face->kind == SurfaceKind::Cylinder || face->kind == SurfaceKind::Cone ||
                    face->kind == SurfaceKind::Sphere);
}

} // namespace

FaceInfo recognised_face(const Body& body, size_t face) {
    const Tessellation& t = body.tessellation();
    FaceInfo info = t.faces.at(face);
    if (body.is_exact() || info.kind == SurfaceKind::Plane) return info;
    Facets facets;
    for (uint32_t i = 0; i < t.face_of.size(); ++i)
        if (t.face_of[i] == face) facets.push_back(i);
    const auto form = form_of(t.mesh, facets);
    if (!form || form->kind == Feature::Kind::Plane) return info;
    info.kind = form->kind == Feature::Kind::Cylinder ? SurfaceKind::Cylinder
                : form->kind == Feature::Kind::Cone   ? SurfaceKind::Cone
                                                      : SurfaceKind::Sphere;
    info.direction = form->axis;
    info.axis_point = form->at;
    if (info.kind != SurfaceKind::Cone) info.radius_mm = form->diameter_mm / 2;
    return info;
}

Measured measure_between(const Measurable& a, const Measurable& b) {
    Measured result;
    ClosestPair pair = closest_pair(DistanceTree(surface_of(a)), DistanceTree(surface_of(b)));
    result.distance_mm = pair.distance_mm;
    result.at_a = pair.at_a;
    result.at_b = pair.at_b;
    const auto face_a = face_of(a), face_b = face_of(b);
    const auto way_a = direction_of(a, face_a), way_b = direction_of(b, face_b);
    if (way_a && way_b) {
        double angle = degrees(std::acos(std::clamp(std::fabs(way_a->dot(*way_b)), 0.0, 1.0)));
        bool mixed = (a.kind == Measurable::Kind::Edge) != (b.kind == Measurable::Kind::Edge);
        const auto& face = face_a ? face_a : face_b;
        // Between an edge and a flat face the angle to the face, not to its normal.
        if (mixed && face && face->kind == SurfaceKind::Plane) angle = 90 - angle;
        result.angle_deg = angle;
    }
    if (is_round(face_a) && is_round(face_b)) {
        Vec3 d = b.place * face_b->centre - a.place * face_a->centre;
        const Vec3 axis = a.place.linear() * face_a->direction;
        const bool balls = face_a->kind == SurfaceKind::Sphere && face_b->kind == SurfaceKind::Sphere;
        const Vec3 axes = b.place * face_b->axis_point - a.place * face_a->axis_point;
        // Recognised axes are as parallel as their corners are exact.
        const double parallel = a.body.is_exact() && b.body.is_exact() ? 1e-6 : 2e-3;
        if (!balls && axis.cross(b.place.linear() * face_b->direction).norm() < parallel)
            d = axes - axes.dot(axis) * axis;
        else if (balls)
            d = axes;
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
    if (!body.is_exact())
        if (const FaceInfo form = recognised_face(body, face);
            form.kind == SurfaceKind::Cylinder || form.kind == SurfaceKind::Sphere)
            result.diameter_mm = 2 * form.radius_mm;
    return result;
}

} // namespace lp
