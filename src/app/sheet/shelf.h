// The shelf: parts and stand-ins, one row each: swatch, name, quantity, eye, fit ring.
#pragma once
#include "app/session.h"
#include <QPointer>
#include <QWidget>

class QLineEdit;

namespace lp {

/// Name and "#rrggbb" of the filaments a part may be shown in, muted like the plastic.
const std::vector<std::pair<const char*, const char*>>& filament_colours();

class Shelf : public QWidget {
    Q_OBJECT
  public:
    explicit Shelf(Session* session, QWidget* parent = nullptr);
    QSize sizeHint() const override;
    QRect row_rect(size_t row) const;
    /// The worst state of the part's contacts; unset when it has none.
    FitState ring_of(const Part& part) const;
    void rename(size_t row);

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void contextMenuEvent(QContextMenuEvent*) override;
    bool event(QEvent*) override;

  private:
    void double_it(PartId part);
    void copy(PartId part);
    void put_in();
    int row_at(const QPointF& at) const;
    void open_menu(size_t row, const QPoint& at);
    QRectF eye_rect(size_t row) const;
    Session* session_;
    int hover_ = -1;
    QPointer<QLineEdit> editor_;
};

} // namespace lp
