// Over the view while something is mapped: its scale with contours or hatch, and the value under the pointer.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include "shape/ray_scene.h"
#include <memory>
#include <optional>

namespace lp {

class MapLegend : public ViewOverlay {
  public:
    explicit MapLegend(ViewWidget* view) : view_(view) {}
    void paint(QPainter& painter) override;
    bool press(QMouseEvent*) override { return false; }
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent*) override { return false; }
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent*) override { return false; }
    double room_at_right() const override { return mapped() ? 126 : 0; }
    /// The mapped value at a place of the view; nothing beside the map.
    std::optional<double> value_at(const QPointF& at);

  private:
    const SceneBody* mapped() const;
    ViewWidget* view_;
    /// A mapped surface and the rays made for it.
    struct Surface {
        std::shared_ptr<const Tessellation> shape;
        std::unique_ptr<RayScene> rays;
    };
    void make_rays();
    std::vector<Surface> surfaces_; ///< of all mapped bodies, in the scene's order
    std::optional<double> under_;
    QPointF at_;
};

} // namespace lp
