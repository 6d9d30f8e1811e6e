#include "bed/pose.h"
#include "check/footing.h"
#include <algorithm>

namespace lp {
Transform pose_transform(const TriMesh& mesh, const Vec3& down, const Vec3& turn_deg) {
    Transform pose = Transform::Identity();
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.z()), Vec3::UnitZ()));
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.y()), Vec3::UnitY()));
    pose.rotate(Eigen::AngleAxisd(radians(turn_deg.x()), Vec3::UnitX()));
    pose = pose * turned_up(-down.normalized());
    if (mesh.empty()) return pose;
    Box3 box;
    for (const Triangle& t : mesh.triangles)
        for (uint32_t v : t) box.extend(pose * mesh.vertices[v]);
    Vec3 centre = box.center();
    pose.pretranslate(Vec3(-centre.x(), -centre.y(), -box.min().z()));
    return pose;
}

} // namespace lp
