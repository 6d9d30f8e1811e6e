// Dots at the tips of supports: one is chosen, taken away by Delete, or drawn along the part to another place.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include <functional>

namespace lp {

class SupportHandles : public ViewOverlay {
  public:
    explicit SupportHandles(ViewWidget* view) : view_(view) {}

    struct Target {
        PartId part;
        std::vector<Vec3> places;                  ///< that tips carry, in the design frame of the part
        Transform to_view = Transform::Identity(); ///< from there to where the part is shown
        std::optional<Vec3> chosen;                ///< one of the places
    };
    /// Whose supports can be taken by hand; nothing takes the dots away. While one is in hand it stays as it is.
    void set_target(std::optional<Target> target);
    const std::optional<Target>& target() const { return target_; }
    bool busy() const { return held_.has_value(); }
    QPointF dot(size_t place) const; ///< in the view

    /// Nothing lets go of the chosen one.
    std::function<void(const std::optional<Vec3>& place)> chosen;
    std::function<void(const Vec3& place)> taken_away;
    std::function<void(const Vec3& from, const Vec3& to)> moved;
    /// The place on the part, in its design frame, that is seen there and looks down or sideways as it lies.
    std::function<std::optional<Vec3>(const QPointF& at)> place_at;

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent* event) override;

  private:
    std::optional<size_t> at(const QPointF& place) const;
    bool is_chosen(const Vec3& place) const;

    ViewWidget* view_;
    std::optional<Target> target_;
    std::optional<size_t> hover_, held_; ///< numbers of places
    bool dragged_ = false;
    QPointF begun_, pointer_;
    std::optional<Vec3> there_; ///< where it would go
};

} // namespace lp
