// The five stretches of the work, drawn as a measuring tape; each carries the number of things open there.
#pragma once
#include "app/session.h"
#include <QWidget>

namespace lp {

class Tape : public QWidget {
    Q_OBJECT
  public:
    explicit Tape(Session* session, QWidget* parent = nullptr);
    static QString name_of(Stretch stretch);
    /// Open things: failed steps, contacts not right, findings.
    int open_at(Stretch stretch) const;
    QRectF stretch_rect(Stretch stretch) const;

  protected:
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void leaveEvent(QEvent*) override;
    void keyPressEvent(QKeyEvent*) override;

  private:
    Session* session_;
    int hover_ = -1;
};

} // namespace lp
