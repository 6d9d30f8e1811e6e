#include "app/offers/offers_bar.h"
#include "base/quantity.h"
#include "shape/mesh_distance.h"

namespace lp {
namespace {

TriMesh surface_of(const Session& session, const Pick& pick) {
    TriMesh mesh;
    const Tessellation* t = session.tessellation_of(pick);
    if (!t) return mesh;
    if (pick.kind == Pick::Kind::Edge) { // an edge as facets without width
        const EdgeInfo& edge = t->edges[pick.index];
        for (size_t k = 1; k < edge.points.size(); ++k) {
            auto base = uint32_t(mesh.vertices.size());
            mesh.vertices.insert(mesh.vertices.end(), {edge.points[k - 1], edge.points[k], edge.points[k]});
            mesh.triangles.push_back({base, base + 1, base + 2});
        }
        return mesh;
    }
    mesh.vertices = t->mesh.vertices;
    for (size_t i = 0; i < t->mesh.triangles.size(); ++i)
        if (pick.kind == Pick::Kind::Body || t->face_of[i] == pick.index)
            mesh.triangles.push_back(t->mesh.triangles[i]);
    return mesh;
}

bool is_round(const FaceInfo* face) {
    return face && (face->kind == SurfaceKind::Cylinder || face->kind == SurfaceKind::Cone ||
                    face->kind == SurfaceKind::Sphere);
}

} // namespace

QString describe_pick(const Session& session, const Pick& pick) {
    if (const EdgeInfo* edge = session.edge_of(pick))
        return "Edge " + QString::fromStdString(format_fixed(edge->length_mm, 2)) + " mm long";
    const FaceInfo* face = session.face_of(pick);
    if (!face) {
        PartPtr part = pick ? session.project()->part(pick.part) : nullptr;
        return part ? QString::fromStdString(part->name) : QString();
    }
    QString words = "Face " + QString::fromStdString(format_number(face->area_mm2, 1)) + " mm²";
    QString across = QString::fromStdString(format_fixed(face->radius_mm * 2, 2));
    if (face->kind == SurfaceKind::Plane) words += " · flat";
    if (face->kind == SurfaceKind::Cylinder) words += " · round, ⌀ " + across;
    if (face->kind == SurfaceKind::Sphere) words += " · ball, ⌀ " + across;
    if (face->kind == SurfaceKind::Cone) words += " · conical";
    return words;
}

QString measure_words(const Session& session, const Pick& a, const Pick& b) {
    ClosestPair pair = closest_pair(DistanceTree(surface_of(session, a)), DistanceTree(surface_of(session, b)));
    QString words = QString::fromStdString(format_fixed(pair.distance_mm, 2)) + " mm apart";
    const FaceInfo *fa = session.face_of(a), *fb = session.face_of(b);
    if (fa && fb && fa->kind != SurfaceKind::Sphere && fb->kind != SurfaceKind::Sphere) {
        double cosine = std::fabs(fa->direction.dot(fb->direction));
        double angle = degrees(std::acos(std::clamp(cosine, 0.0, 1.0)));
        words += angle < 0.005 ? QString(" · parallel") : " · " + QString::fromStdString(format_fixed(angle, 2)) + "°";
    }
    if (is_round(fa) && is_round(fb)) {
        // Between axes: across them when parallel, else between the middles.
        Vec3 d = fb->centre - fa->centre;
        if (fa->direction.cross(fb->direction).norm() < 1e-6) d -= d.dot(fa->direction) * fa->direction;
        words += " · centres " + QString::fromStdString(format_fixed(d.norm(), 2)) + " mm";
    }
    return words;
}

} // namespace lp
