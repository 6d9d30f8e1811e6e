// Over the view while a gap is mapped: the colour scale in mm with its contours, and the gap under the pointer.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include "shape/ray_scene.h"
#include <memory>
#include <optional>

namespace lp {

class GapLegend : public ViewOverlay {
  public:
    explicit GapLegend(ViewWidget* view) : view_(view) {}
    void paint(QPainter& painter) override;
    bool press(QMouseEvent*) override { return false; }
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent*) override { return false; }
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent*) override { return false; }
    /// The mapped gap at a place of the view; nothing beside the map.
    std::optional<double> gap_at(const QPointF& at);

  private:
    const SceneBody* mapped() const;
    ViewWidget* view_;
    std::shared_ptr<const Tessellation> built_for_; ///< the surface the rays were made for
    std::unique_ptr<RayScene> rays_;
    std::optional<double> under_;
    QPointF at_;
};

} // namespace lp
