// The active part in its print direction, one bar a layer, with marks where printing goes wrong. The handle cuts the
// view.
#pragma once
#include "app/session.h"
#include <QWidget>

class QPushButton;

namespace lp {

class LayerStrip : public QWidget {
    Q_OBJECT
  public:
    explicit LayerStrip(Session* session, QWidget* parent = nullptr);
    double y_of(double z_mm) const;
    double z_of(double y) const;
    double handle_z() const; ///< the cut, or the top

    QPushButton* lines_button() const { return lines_; }

  protected:
    void resizeEvent(QResizeEvent*) override;
    void paintEvent(QPaintEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void mouseReleaseEvent(QMouseEvent*) override;
    void mouseDoubleClickEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    bool event(QEvent*) override;

  private:
    const LayerPlan* plan() const;
    const PartAnalysis* analysis() const;
    void draw_pauses(QPainter& p);
    double height_mm() const;
    void cut_at(double z);
    size_t layer_at(double z) const;
    void draw_bars(QPainter& p, const LayerPlan& plan);
    void draw_scale(QPainter& p, const LayerPlan& plan); ///< and the marks of what hangs
    void draw_handle(QPainter& p, const LayerPlan& plan);
    Session* session_;
    QPushButton* lines_; ///< the lines of the layers, and the way back
    bool dragging_ = false;
};

} // namespace lp
