// Draws a scene with OpenGL 3.3 into an image. Knows no window: its context lives on an offscreen surface, so the same
// picture comes out under a real screen, a virtual one and in tests (docs/architecture.md, "The view").
#pragma once
#include "app/view/camera.h"
#include "app/view/scene.h"
#include <QImage>
#include <QString>
#include <memory>

class QOffscreenSurface;

namespace lp {

class Renderer {
  public:
    /// What it draws on; to be made, and let go of last, on the interface's thread.
    static std::shared_ptr<QOffscreenSurface> make_surface();
    /// To be used on the thread it was made on.
    explicit Renderer(std::shared_ptr<QOffscreenSurface> surface = make_surface());
    ~Renderer();
    /// Empty when drawing works, else why it does not.
    QString problem() const;
    /// While the view moves very large bodies are drawn coarsely (light_mesh.h).
    void set_moving(bool moving);
    /// The scene in device pixels. Geometry that did not change since the last call is not sent again.
    QImage render(const Scene& scene, const Camera& camera, const QSize& pixels, double pixel_ratio);

  private:
    struct Engine;
    std::unique_ptr<Engine> engine_;
};

} // namespace lp
