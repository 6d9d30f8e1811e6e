// One layer drawn from above: its lines as wide as they will lie, as far as they are laid. The picture is made beside
// the interface thread; until a new one is there the last one is moved along.
#pragma once
#include "app/strip/lines_picture.h"
#include <QThreadPool>
#include <QWidget>

namespace lp {

class LinesCanvas : public QWidget {
    Q_OBJECT
  public:
    explicit LinesCanvas(QWidget* parent);
    ~LinesCanvas() override { painter_.waitForDone(); }
    void set_lines(std::shared_ptr<const PartLines> lines, const QColor& filament);
    void set_layer(size_t layer);
    /// So many layers under it are seen too, paler.
    void set_below(size_t layers);
    /// Seconds of the layer that are laid; more than it takes: all of it.
    void set_laid(double seconds);
    /// How long the lines of a layer take at their speeds, without hops.
    double seconds(size_t layer) const;
    void fit(); ///< the part into the middle
    /// Of a place in the layer, in the widget.
    QPointF to_pixel(const Vec2& place) const { return wanted_.to_pixel(place); }
    const PartLines* lines() const { return wanted_.lines.get(); }
    /// The picture shows what it should.
    bool drawn() const { return !painting_ && !stale_; }
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
    void want();  ///< a new picture
    void start(); ///< to make it
    void draw_picture(QPainter& p) const;
    void draw_loose_words(QPainter& p) const;
    void draw_scale(QPainter& p) const;
    void zoom(double by, const QPointF& at);
    Vec2 to_place(const QPointF& at) const { return wanted_.to_place(at); }

    LinesShown wanted_, painted_; ///< what is to be seen in the widget's pixels, and what the picture shows
    QImage picture_;
    QThreadPool painter_;
    bool painting_ = false, stale_ = false; ///< stale: changed since what is being painted was taken
    bool fitted_ = false;
    QPointF dragged_;
};

} // namespace lp
