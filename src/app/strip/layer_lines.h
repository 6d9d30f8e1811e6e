// The layer view: the lines of a layer of the active part as they will lie, over the view. Its layer is where the strip
// is cut.
#pragma once
#include "app/session.h"
#include "app/strip/lines_canvas.h"
#include <QElapsedTimer>
#include <QTimer>

class QComboBox;
class QLabel;
class QPushButton;
class QSlider;

namespace lp {

class FlowLayout;

class LayerLinesView : public QWidget {
    Q_OBJECT
  public:
    LayerLinesView(Session* session, QWidget* over);
    /// Opens it, or puts it away.
    void turn_over();
    /// Opens it with a print plan made elsewhere.
    void look_at_plan(const QString& file);
    bool has_lines() const { return lines_ != nullptr; }
    size_t layer() const { return layer_; }
    LinesCanvas* canvas() const { return canvas_; }
    QSlider* along() const { return along_; }
    QPushButton* play() const { return play_; }
    QComboBox* below() const { return below_; }
    QComboBox* whole() const { return whole_; }
    QString words() const;
    QString about() const;
    QPushButton* write_button() const { return write_; }
    QPushButton* stop_button() const { return stop_; }
    /// Writes the lines as G-code; says so, or why not.
    void write_to(const QString& file);

  protected:
    bool eventFilter(QObject* object, QEvent* event) override;

  private:
    void make_head();
    void make_foot();
    void open();
    void plan();
    void take(std::shared_ptr<const PartLines> lines, const QString& about);
    void ask_write();
    void stop_here();
    bool of_a_file() const { return !file_.isEmpty(); }
    bool of_the_bed() const;
    bool goes_with_strip() const { return !of_a_file() && !of_the_bed(); }
    void plan_bed();
    void show_layer(size_t layer);
    void follow(); ///< what the part became, and where the strip is cut
    void go_up(int layers);
    void go_on(int lines);
    void clear_legend();
    void show_words();
    void show_laid();
    void lay(double seconds);
    void switch_play();
    void close_view();

    Session* session_;
    QWidget* over_;
    QLabel *words_ = nullptr, *about_ = nullptr, *clock_ = nullptr;
    QWidget* legend_ = nullptr;
    LinesCanvas* canvas_ = nullptr;
    QSlider* along_ = nullptr;
    QPushButton *play_ = nullptr, *write_ = nullptr, *stop_ = nullptr;
    QComboBox *speed_ = nullptr, *below_ = nullptr; ///< below: how many layers under it are seen
    QComboBox* whole_ = nullptr;                    ///< the part alone, or all that stands on its bed
    QTimer beat_;
    QElapsedTimer since_; ///< the last beat
    std::shared_ptr<const PartLines> lines_;
    std::shared_ptr<const TriMesh> posed_; ///< for which they are planned, or being planned
    std::shared_ptr<const Tessellation> supports_;
    PrinterCard card_; ///< they are planned by
    std::vector<TypedBand> bands_;
    std::shared_ptr<const Analysis> bed_of_; ///< of whose bed they are
    QString file_;                           ///< of a plan made elsewhere; empty: of the active part
    std::optional<double> cut_before_;       ///< of the view, when this was opened
    size_t layer_ = 0;
    double laid_s_ = 0;
};

} // namespace lp
