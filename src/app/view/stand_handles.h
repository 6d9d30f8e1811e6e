// Copies of the part in hand on the beds: a cross to push each about, a dial to turn the chosen one. Escape drops.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include "bed/arrange.h"
#include <functional>

namespace lp {

class StandHandles : public ViewOverlay {
  public:
    explicit StandHandles(ViewWidget* view) : view_(view) {}

    struct Stand {
        int copy = 0;
        BedSpot spot;
        bool locked = false;
        Vec3 middle = Vec3::Zero(); ///< of it, on the bed, in the world
        double reach_mm = 0;        ///< from there to its side
    };
    struct Target {
        PartId part;
        std::vector<Stand> stands;
        int chosen = 0; ///< copy
        Vec3 bed_mm = Vec3::Zero();
    };
    /// Whose copies can be moved; nothing takes the handles away. While one is in hand it stays as it is.
    void set_target(std::optional<Target> target);
    const std::optional<Target>& target() const { return target_; }
    bool busy() const { return held_; }
    QPointF grip(int copy) const;        ///< of the cross of a copy, in the view
    std::optional<QPointF> dial() const; ///< of the chosen copy
    QString words() const;               ///< "104.0 mm from the left, 62.0 mm from the front"

    std::function<void(PartId part, int copy)> chosen;
    /// Told once it is let go of.
    std::function<void(PartId part, const Stand& stand, const BedSpot& to)> moved;

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent* event) override;

  private:
    const Stand* stand_of(int copy) const;
    std::optional<Vec3> on_bed(const QPointF& at) const; ///< the place of the bed under the pointer
    Vec3 dial_at(const Stand& stand, double turn_deg) const;
    /// The same without what was dragged: what is at a place of the view.
    struct Hold {
        int copy;
        bool turn;
        bool operator==(const Hold&) const = default;
    };
    std::optional<Hold> at(const QPointF& place) const;
    void drag_to(const QPointF& at);
    void drop();

    ViewWidget* view_;
    std::optional<Target> target_;
    std::optional<Hold> hold_, hover_;
    bool held_ = false, dragged_ = false;
    Vec3 begun_ = Vec3::Zero();
    BedSpot to_;
    QPointF pointer_;
};

} // namespace lp
