// Handles on a chosen body: drag a way along an axis or a turn about one; the number can be typed at any time.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include <functional>

namespace lp {

class MoveHandles : public ViewOverlay {
  public:
    explicit MoveHandles(ViewWidget* view) : view_(view) {}

    /// Where the handles stand and what they move: a part, or one of its bodies. Nothing takes them away.
    struct Target {
        PartId part;
        std::optional<size_t> body;
        bool operator==(const Target&) const = default;
    };
    void set_target(const std::optional<Target>& target);
    const std::optional<Target>& target() const { return target_; }

    /// Told once a move or a turn is done; world axes. A turn goes about `centre`.
    std::function<void(const Target&, const Vec3& by_mm)> moved;
    std::function<void(const Target&, int axis, double angle_deg, const Vec3& centre)> turned;

    /// Tip of the arrow (or the grip of the turn) on the view, for painting and tests.
    QPointF grip(int axis, bool turn) const;
    bool busy() const { return axis_ >= 0; } ///< a number is being dragged or typed
    QString words() const;                   ///< "x 12.50 mm, meets a face of Body"

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent* event) override;

  private:
    /// A place along an axis that others can meet.
    struct Feature {
        double at = 0;
        QString words;
    };
    std::vector<Feature> features(bool of_target, int axis) const;
    double dragged_to(const QPointF& at) const; ///< mm or degrees from where the drag began
    double snapped(double by);
    void begin(int axis, bool turn, const QPointF& at);
    void show(double value);
    void commit();
    void cancel();
    double value() const; ///< what is typed, else what was dragged
    double reach() const; ///< mm of an arrow: the same on every zoom

    ViewWidget* view_;
    std::optional<Target> target_;
    Vec3 centre_ = Vec3::Zero();
    int axis_ = -1, hover_axis_ = -1;
    bool turn_ = false, hover_turn_ = false, held_ = false, dragged_ = false;
    double begun_ = 0, value_ = 0;
    QPointF press_, pointer_;
    QString typed_, meets_;
    std::vector<Feature> mine_, theirs_;
};

} // namespace lp
