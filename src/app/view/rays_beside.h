// Rays against bodies of a scene, made when they are first asked for: at once for a small scene, on a thread of their
// own for a large one.
#pragma once
#include "shape/body.h"
#include "shape/ray_scene.h"
#include <future>
#include <memory>

namespace lp {

struct PlacedShape {
    std::shared_ptr<const Tessellation> shape;
    Transform place = Transform::Identity();
};

class RaysBeside {
  public:
    RaysBeside() = default;
    ~RaysBeside() { let_go(); }
    RaysBeside(const RaysBeside&) = delete;
    RaysBeside& operator=(const RaysBeside&) = delete;

    /// Costs nothing until the first question; the same bodies as before keep their rays.
    void set(std::vector<PlacedShape> bodies);
    /// Null while those of a large scene are still being made. Meshes are numbered as the bodies.
    const RayScene* get();
    bool making() const { return pending_.valid(); }
    /// Begins to make them where that takes a thread of its own.
    void begin();

  private:
    bool is_large() const;
    void let_go(); ///< of what is still being made: it is thrown away when it is done
    std::vector<PlacedShape> bodies_;
    std::unique_ptr<RayScene> rays_;
    std::future<std::unique_ptr<RayScene>> pending_;
};

} // namespace lp
