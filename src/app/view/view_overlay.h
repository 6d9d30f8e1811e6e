// Something that draws over the view and may take its mouse and keys first.
#pragma once

#include <QPointF>
#include <QString>

class QKeyEvent;
class QMouseEvent;
class QPainter;

namespace lp {

class ViewOverlay {
  public:
    virtual ~ViewOverlay() = default;
    virtual void paint(QPainter& painter) = 0;
    virtual double room_at_right() const { return 0; } ///< of the view it covers, in pixels
    // True when the event was taken. Positions are the view's.
    virtual bool press(QMouseEvent* event) = 0;
    virtual bool move(QMouseEvent* event) = 0;
    virtual bool release(QMouseEvent* event) = 0;
    virtual bool double_click(QMouseEvent* event) = 0;
    virtual bool key(QKeyEvent* event) = 0;
};

/// What is dragged or typed, in a bubble up and to the right of a place, within a view of that width.
void paint_number_beside(QPainter& painter, const QPointF& place, const QString& text, double view_width, bool in_hand);

} // namespace lp
