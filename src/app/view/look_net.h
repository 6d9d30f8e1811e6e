// Looks along an axis: the six sides of a box, laid open like its cardboard. The side that is looked at is filled; a
// press on another looks at that one.
#pragma once
#include "base/geometry.h"
#include <QWidget>
#include <array>

namespace lp {

class ViewWidget;

class LookNet : public QWidget {
    Q_OBJECT
  public:
    explicit LookNet(ViewWidget* view);
    struct Side {
        const char* name;   ///< "front"
        const char* letter; ///< in its field
        int column, row;    ///< of the net
        Vec3 outward;
    };
    static const std::array<Side, 6>& sides();
    QRect rect_of(size_t side) const;
    /// The side turned most to the eye.
    size_t facing() const;
    void look_at(size_t side);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;

  private:
    std::optional<size_t> at(const QPoint& place) const;
    void place();
    bool eventFilter(QObject*, QEvent*) override;
    ViewWidget* view_;
    std::optional<size_t> hover_;
    size_t chosen_ = 0; ///< by keys
    size_t shown_ = 6;
};

} // namespace lp
