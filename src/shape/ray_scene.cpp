#include "shape/ray_scene.h"
#include "shape/embree_scene.h"

namespace lp {

struct RayScene::Engine : EmbreeScene {};

RayScene::RayScene() : engine_(std::make_unique<Engine>()) {}
RayScene::~RayScene() = default;

uint32_t RayScene::add(const TriMesh& mesh) {
    return engine_->add(mesh, Vec3::Zero());
}

void RayScene::commit() {
    rtcCommitScene(engine_->scene);
}

RayHit RayScene::cast(const Vec3& origin, const Vec3& direction, double from, double to) const {
    RTCRayHit met = engine_->cast(origin, direction, float(from), float(to));
    if (met.hit.geomID == RTC_INVALID_GEOMETRY_ID) return {};
    return {met.hit.geomID, met.hit.primID, met.ray.tfar, from_behind(met, direction)};
}

} // namespace lp
