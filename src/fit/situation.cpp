#include "fit/situation.h"

namespace lp {

namespace {

/// A flat roof over the tool: beyond any gap of its face, yet within a wall.
bool has_roof(const std::vector<Body>& tool, const Vec3& up, const HasMaterial& host) {
    constexpr double above_mm = 1;
    for (const Body& body : tool)
        for (const FaceInfo& face : body.tessellation().faces)
            if (face.kind == SurfaceKind::Plane && face.direction.dot(up) > 0.9 &&
                host(face.centre + above_mm * face.direction))
                return true;
    return false;
}

} // namespace

ContactSituation situation_of(const std::vector<Body>& tool, const Vec3& down, bool tool_printed,
                              const HasMaterial& host) {
    ContactSituation situation;
    situation.tool_printed = tool_printed;
    situation.lying = host && has_roof(tool, -down.normalized(), host);
    const FaceInfo* largest = nullptr;
    for (const Body& body : tool)
        for (const FaceInfo& face : body.tessellation().faces)
            if (face.kind == SurfaceKind::Cylinder && (!largest || face.area_mm2 > largest->area_mm2)) largest = &face;
    if (!largest) return situation;
    Vec3 axis = largest->direction.normalized();
    double round = 0, other = 0;
    for (const Body& body : tool)
        for (const FaceInfo& face : body.tessellation().faces) {
            bool along = std::fabs(face.direction.normalized().dot(axis)) > 0.999;
            if (face.kind == SurfaceKind::Plane && along) continue; // its ends
            (face.kind == SurfaceKind::Cylinder && along ? round : other) += face.area_mm2;
        }
    if (round <= other) return situation;
    situation.hole_diameter_mm = 2 * largest->radius_mm;
    situation.lying = situation.lying || std::fabs(axis.dot(down.normalized())) < 0.7071;
    return situation;
}

} // namespace lp
