// The brush over the view: a ring on the surface under the pointer, or where the arrow keys led it; drawn along, it
// leaves dabs.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include <functional>

namespace lp {

class BrushHandle : public ViewOverlay {
  public:
    explicit BrushHandle(ViewWidget* view) : view_(view) {}

    /// A place on the part and away from it, in its design frame.
    struct Touch {
        Vec3 at, out;
    };
    struct Target {
        double radius_mm = 3;
        bool wipes = false;
        std::vector<Transform> to_view; ///< from the design frame to where each copy of the part is shown
    };
    /// Nothing puts the brush away; a stroke that is under way goes on.
    void set_target(std::optional<Target> target);
    bool busy() const { return stroking_; }
    const std::optional<Target>& target() const { return target_; }

    /// What of the part is seen there.
    std::function<std::optional<Touch>(const QPointF& at)> touched;
    std::function<void(const std::vector<Touch>& stroke)> stroked;
    std::function<void(double radius_mm)> sized; ///< by + and -
    std::function<void()> put_away;

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent* event) override { return press(event); }
    bool key(QKeyEvent* event) override;

  private:
    void go_to(const QPointF& at);
    void find_copy();
    void add();
    void finish();
    void paint_ring(QPainter& painter, const Touch& touch, bool in_hand) const;

    ViewWidget* view_;
    std::optional<Target> target_;
    QPointF pointer_{-1, -1};
    std::optional<Touch> under_; ///< the pointer
    size_t copy_ = 0;            ///< that it lies on
    bool stroking_ = false;
    std::vector<Touch> stroke_;
};

} // namespace lp
