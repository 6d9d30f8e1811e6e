// A scene of Embree with what both of its users need. Internal to shape/.
#pragma once
#include "shape/tri_mesh.h"
#include <embree3/rtcore.h>

namespace lp {

struct EmbreeScene {
    RTCDevice device = rtcNewDevice(nullptr);
    RTCScene scene = rtcNewScene(device);

    EmbreeScene() { rtcSetSceneFlags(scene, RTC_SCENE_FLAG_ROBUST); }
    ~EmbreeScene();
    EmbreeScene(const EmbreeScene&) = delete;
    EmbreeScene& operator=(const EmbreeScene&) = delete;

    /// Copies the triangles, moved so that `middle` is the origin: the engine is single precision. Returns their number
    /// in the scene.
    uint32_t add(const TriMesh& mesh, const Vec3& middle);
    /// First facet met; geomID is RTC_INVALID_GEOMETRY_ID when there is none.
    RTCRayHit cast(const Vec3& origin, const Vec3& direction, float from, float to) const;
};

/// Whether the ray met the back of the facet.
bool from_behind(const RTCRayHit& hit, const Vec3& direction);

} // namespace lp
