// Over the view while something is mapped: its scale with contours or hatch, and the value under the pointer.
#pragma once
#include "app/view/rays_beside.h"
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
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
    void read();
    ViewWidget* view_;
    RaysBeside rays_; ///< against the mapped bodies
    std::optional<double> under_;
    bool reads_again_ = false;
    QPointF at_;
};

} // namespace lp
