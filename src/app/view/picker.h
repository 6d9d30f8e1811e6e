// What lies under the pointer: faces by rays, edges by distance on the screen. On the processor, no OpenGL.
#pragma once
#include "app/view/camera.h"
#include "app/view/rays_beside.h"
#include "app/view/scene.h"

namespace lp {

class Picker {
  public:
    /// Takes the bodies of a scene. Costs nothing until the first question about them.
    void set_scene(const Scene& scene);
    /// Candidates under the pointer, best first: an edge within 5 pixels, the face, the body, then what lies behind.
    std::vector<Pick> candidates(const Scene& scene, const Camera& camera, const QPointF& at, const QSize& size) const;

    /// Whether the next question is answered: the rays of a large scene take a moment, and begin to be built here.
    bool ready() const;
    /// Begins to build them where that takes a thread of its own.
    void begin() const;

  private:
    struct Entry {
        PartId part;
        size_t body;
        std::shared_ptr<const Tessellation> shape;
        Transform place;
    };
    std::vector<Entry> entries_;
    mutable RaysBeside rays_; ///< nothing is under the pointer until they are there
};

} // namespace lp
