#include "shape/ray_scene.h"
#include <embree3/rtcore.h>

namespace lp {

struct RayScene::Engine {
    RTCDevice device = rtcNewDevice(nullptr);
    RTCScene scene = rtcNewScene(device);
    ~Engine() {
        rtcReleaseScene(scene);
        rtcReleaseDevice(device);
    }
};

RayScene::RayScene() : engine_(std::make_unique<Engine>()) {
    rtcSetSceneFlags(engine_->scene, RTC_SCENE_FLAG_ROBUST);
}
RayScene::~RayScene() = default;

uint32_t RayScene::add(const TriMesh& mesh) {
    RTCGeometry geometry = rtcNewGeometry(engine_->device, RTC_GEOMETRY_TYPE_TRIANGLE);
    auto* vertices = static_cast<float*>(
        rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_VERTEX, 0, RTC_FORMAT_FLOAT3, 12, mesh.vertices.size()));
    auto* indices = static_cast<uint32_t*>(
        rtcSetNewGeometryBuffer(geometry, RTC_BUFFER_TYPE_INDEX, 0, RTC_FORMAT_UINT3, 12, mesh.triangles.size()));
    if (vertices)
        for (size_t i = 0; i < mesh.vertices.size(); ++i)
            for (int k = 0; k < 3; ++k) vertices[3 * i + k] = float(mesh.vertices[i][k]);
    if (indices)
        for (size_t i = 0; i < mesh.triangles.size(); ++i)
            for (int k = 0; k < 3; ++k) indices[3 * i + k] = mesh.triangles[i][k];
    rtcCommitGeometry(geometry);
    uint32_t id = rtcAttachGeometry(engine_->scene, geometry);
    rtcReleaseGeometry(geometry);
    return id;
}

void RayScene::commit() {
    rtcCommitScene(engine_->scene);
}

RayHit RayScene::cast(const Vec3& origin, const Vec3& direction, double from, double to) const {
    RTCIntersectContext context;
    rtcInitIntersectContext(&context);
    RTCRayHit query{};
    query.ray.org_x = float(origin.x());
    query.ray.org_y = float(origin.y());
    query.ray.org_z = float(origin.z());
    query.ray.dir_x = float(direction.x());
    query.ray.dir_y = float(direction.y());
    query.ray.dir_z = float(direction.z());
    query.ray.tnear = float(from);
    query.ray.tfar = float(to);
    query.ray.mask = ~0u;
    query.hit.geomID = RTC_INVALID_GEOMETRY_ID;
    rtcIntersect1(engine_->scene, &context, &query);
    if (query.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    Vec3 normal(query.hit.Ng_x, query.hit.Ng_y, query.hit.Ng_z);
    return {query.hit.geomID, query.hit.primID, query.ray.tfar, normal.dot(direction) > 0};
}

} // namespace lp
