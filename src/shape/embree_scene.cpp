#include "shape/embree_scene.h"

namespace lp {

EmbreeScene::~EmbreeScene() {
    rtcReleaseScene(scene);
    rtcReleaseDevice(device);
}

uint32_t EmbreeScene::add(const TriMesh& mesh, const Vec3& middle) {
    RTCGeometry geometry = rtcNewGeometry(device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* vertices = static_cast<float*>(
        rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, mesh.vertices.size()));
    auto* indices = static_cast<uint32_t*>(
        rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, mesh.triangles.size()));
    if (vertices)
        for (size_t i = 0; i < mesh.vertices.size(); ++i)
            for (int k = 0; k < 3; ++k) vertices[3 * i + k] = float(mesh.vertices[i][k] - middle[k]);
    if (indices)
        for (size_t i = 0; i < mesh.triangles.size(); ++i)
            for (int k = 0; k < 3; ++k) indices[3 * i + k] = mesh.triangles[i][k];
    rtcCommitGeometry(geometry);
    uint32_t id = rtcAttachGeometry(scene, geometry);
    rtcReleaseGeometry(geometry);
    return id;
}

RTCRayHit EmbreeScene::cast(const Vec3& origin, const Vec3& direction, float from, float to) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit query{};
    query.ray.org_x = float(origin.x());
    query.ray.org_y = float(origin.y());
    query.ray.org_z = float(origin.z());
    query.ray.dir_x = float(direction.x());
    query.ray.dir_y = float(direction.y());
    query.ray.dir_z = float(direction.z());
    query.ray.tnear = from;
    query.ray.tfar = to;
    query.ray.mask = ~0u;
    query.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(scene, &context, &query);
    return query;
}

bool from_behind(const RTCRayHit& hit, const Vec3& direction) {
    return Vec3(hit.hit.Ng_x, hit.hit.Ng_y, hit.hit.Ng_z).dot(direction) > 0;
}

} // namespace lp
