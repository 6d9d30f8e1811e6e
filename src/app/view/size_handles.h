// The numbers of the sentence in hand, in the view: a gap between two jaws for a height, a ring for a diameter, a dial
// for a turn. Drag it, or press it and type; Enter keeps, Escape drops.
#pragma once
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include "steps/step_context.h"
#include <QTimer>
#include <functional>

namespace lp {

class SizeHandles : public ViewOverlay {
  public:
    /// One number, with its handle in the world.
    struct Size {
        SizeHandle handle;
        QString words;            ///< "height"
        double value = 0;         ///< mm or degrees, as it is now
        double low = 0, high = 0; ///< limits, both included; none where they are equal
        QString formula;          ///< what it is worked out from; empty for one that can be drawn out
    };
    struct Target {
        PartId part;
        StepId step;
        std::vector<Size> sizes;
    };
    explicit SizeHandles(ViewWidget* view);

    /// Whose numbers are shown; nothing takes them away. While one is in hand it stays as it is.
    void set_target(std::optional<Target> target);
    const std::optional<Target>& target() const { return target_; }
    bool busy() const { return taken_.has_value(); } ///< one is dragged or typed
    /// Of the handle of a field: where it is taken hold of, in the view.
    QPointF grip(const std::string& field) const;
    QString words() const; ///< "height 12 mm"

    /// Told while it changes (once the hand has paused), when it is kept, and when it is dropped or refused.
    std::function<void(const Target&, const std::string& field, const std::string& text)> changing;
    std::function<void(const Target&, const std::string& field, const std::string& text)> kept;
    std::function<void()> dropped;
    std::function<void(const QString&)> said;

    void paint(QPainter& painter) override;
    bool press(QMouseEvent* event) override;
    bool move(QMouseEvent* event) override;
    bool release(QMouseEvent* event) override;
    bool double_click(QMouseEvent*) override { return false; }
    bool key(QKeyEvent* event) override;

  private:
    bool is_dial(const Size& size) const { return size.handle.shape == SizeHandle::Shape::Dial; }
    double shown_value(const Size& size) const; ///< the one in hand as it is drawn out
    QPointF tip_of(const Size& size) const;     ///< where the size ends on the body
    /// Where it is taken hold of: a little beyond its end, so that the face there can be clicked. Nothing where the
    /// view looks along it.
    std::optional<QPointF> grip_of(const Size& size) const;
    std::optional<size_t> at(const QPointF& place) const;
    std::optional<double> along(const Size& size, const QPointF& place) const; ///< mm, radius or degrees under a place
    Vec3 beside(const Size& size) const; ///< unit, across the axis, to the right in the picture
    double snapped(const Size& size, double value) const;
    std::string text() const; ///< what is typed or drawn out, as files have it
    void tell();
    void keep();
    void drop();
    void paint_size(QPainter& p, const Size& size, bool hot) const;

    ViewWidget* view_;
    std::optional<Target> target_;
    std::optional<size_t> taken_, hover_;
    bool held_ = false, dragged_ = false;
    double begun_ = 0, value_ = 0;
    QPointF press_;
    QString typed_;
    QTimer pause_;
};

} // namespace lp
