// One layer drawn from above: its lines as wide as they will lie, as far as they are laid.
#pragma once
#include "layers/part_lines.h"
#include <QWidget>

namespace lp {

/// How a kind of line is drawn: tones of the filament, and a pattern along its middle, so that none is told by colour
/// alone.
struct LineLook {
    QColor colour;
    Qt::PenStyle middle = Qt::NoPen;
};
LineLook look_of(LineKind kind, const QColor& filament);

/// When each line of a layer is laid at its speed, without hops: seconds from the layer's begin, 0 first.
std::vector<double> laid_at(const LayerLines& layer);

class LinesCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit LinesCanvas(QWidget* parent);
    void set_lines(std::shared_ptr<const PartLines> lines, const QColor& filament);
    void set_layer(size_t layer);
    void set_below(bool shown);
    /// Seconds of the layer that are laid; more than it takes: all of it.
    void set_laid(double seconds);
    /// How long the lines of a layer take at their speeds, without hops.
    double seconds(size_t layer) const;
    void fit(); ///< the part into the middle
    /// Of a place in the layer, in the widget.
    QPointF to_pixel(const Vec2& place) const;
    /// Words about the line under a place of the widget; empty without one.
    QString words_at(const QPointF& at) const;

  signals:
    void layer_wanted(int by); ///< so many up
    void line_wanted(int by);  ///< so many lines on
    void play_wanted();
    void closed();

  protected:
    void paintEvent(QPaintEvent*) override;
    void resizeEvent(QResizeEvent*) override;
    void wheelEvent(QWheelEvent*) override;
    void mousePressEvent(QMouseEvent*) override;
    void mouseMoveEvent(QMouseEvent*) override;
    void keyPressEvent(QKeyEvent*) override;
    bool event(QEvent*) override;

  private:
    void draw_layer(QPainter& p, size_t layer, double until_s, bool pale) const;
    void draw_loose(QPainter& p, double until_s) const;
    void draw_scale(QPainter& p) const;
    void zoom(double by, const QPointF& at);
    Vec2 to_place(const QPointF& at) const;

    std::shared_ptr<const PartLines> lines_;
    QColor filament_;
    size_t layer_ = 0;
    double laid_s_ = 1e18, scale_ = 4; ///< pixels a mm
    Vec2 middle_ = Vec2::Zero();
    bool below_ = false, fitted_ = false;
    QPointF dragged_;
};

} // namespace lp
