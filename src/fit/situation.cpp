#include "fit/situation.h"

namespace lp {

ContactSituation situation_of(const std::vector<Body>& tool, const Vec3& down, bool tool_printed) {
    ContactSituation situation;
    situation.tool_printed = tool_printed;
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
    situation.lying = std::fabs(axis.dot(down.normalized())) < 0.7071;
    return situation;
}

} // namespace lp
