// Rays against many meshes at once (Embree): picking in the view, walls and shadows. Single precision, so for looking,
// not for measuring gaps (see mesh_distance.h).
#pragma once
#include "shape/tri_mesh.h"
#include <memory>

namespace lp {

struct RayHit {
    uint32_t mesh = ~0u; ///< index in the order of adding; ~0 for none
    uint32_t triangle = 0;
    double t = 0;             ///< along the direction as given
    bool from_inside = false; ///< the ray met the back of the facet
    explicit operator bool() const { return mesh != ~0u; }
};

class RayScene {
  public:
    RayScene();
    ~RayScene();
    RayScene(const RayScene&) = delete;
    RayScene& operator=(const RayScene&) = delete;

    /// Copies the triangles; returns the mesh's index.
    uint32_t add(const TriMesh& mesh);
    /// After the last add, before the first cast. About 1.4 s a million triangles.
    void commit();
    /// First hit with t between `from` and `to`. Thread-safe.
    RayHit cast(const Vec3& origin, const Vec3& direction, double from = 0, double to = 1e30) const;

  private:
    struct Engine;
    std::unique_ptr<Engine> engine_;
};

} // namespace lp
