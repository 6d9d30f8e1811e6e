#include "app/strip/layer_lines.h"
#include "app/file_filter.h"
#include "app/panels/print_section.h"
#include "app/strip/read_plan.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/widgets/flow_layout.h"
#include "base/files.h"
#include "base/quantity.h"
#include "base/text.h"
#include "layers/line_time.h"
#include "layers/write_gcode.h"
#include "project/bed_print.h"
#include <QApplication>
#include <QComboBox>
#include <QEvent>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QSlider>

namespace lp {

using theme::Role;

namespace {

constexpr int slider_parts = 1000;
constexpr int beat_ms = 40;

/// A short line as its kind is drawn, and its name.
class KindSample : public QWidget {
  public:
    KindSample(const QString& words, LineLook look, QWidget* parent)
        : QWidget(parent), words_(words), look_(std::move(look)) {
        setFont(theme::words(12));
        setFixedSize(line_px + 8 + fontMetrics().horizontalAdvance(words) + 10, 20);
        setAccessibleName(words);
    }

  protected:
    void paintEvent(QPaintEvent*) override {
        QPainter p(this);
        p.setRenderHint(QPainter::Antialiasing);
        const QPointF from(6, height() / 2.0), to(line_px, height() / 2.0);
        p.setPen(QPen(look_.colour, 9, Qt::SolidLine, Qt::RoundCap));
        p.drawLine(from, to);
        if (look_.middle != Qt::NoPen) {
            p.setPen(QPen(theme::colour(Role::Ink), 1, look_.middle));
            p.drawLine(from, to);
        }
        p.setPen(theme::colour(Role::Ink));
        p.drawText(QRectF(line_px + 10, 0, width(), height()), Qt::AlignVCenter | Qt::AlignLeft, words_);
    }

  private:
    static constexpr int line_px = 34;
    QString words_;
    LineLook look_;
};

QString mm(double value, int decimals) {
    return QString::fromStdString(format_quantity(value, QuantityKind::Length, decimals));
}

} // namespace

LayerLinesView::LayerLinesView(Session* session, QWidget* over) : QWidget(over), session_(session), over_(over) {
    setObjectName("layer-lines");
    setAccessibleName("Lines of a layer");
    theme::give_ground(this, Role::Card);
    auto* rows = new QVBoxLayout(this);
    rows->setContentsMargins(10, 6, 10, 8);
    rows->setSpacing(4);
    make_head();
    about_ = new QLabel(this);
    about_->setFont(theme::words(12));
    about_->setWordWrap(true);
    about_->setStyleSheet(QString("color: %1").arg(theme::css(Role::SoftInk)));
    rows->addWidget(about_);
    canvas_ = new LinesCanvas(this);
    rows->addWidget(canvas_, 1);
    legend_ = new QWidget(this);
    new FlowLayout(legend_, 8, 2);
    rows->addWidget(legend_);
    make_foot();
    hide();
    over->installEventFilter(this);
    connect(canvas_, &LinesCanvas::layer_wanted, this, &LayerLinesView::go_up);
    connect(canvas_, &LinesCanvas::line_wanted, this, &LayerLinesView::go_on);
    connect(canvas_, &LinesCanvas::play_wanted, this, &LayerLinesView::switch_play);
    connect(canvas_, &LinesCanvas::closed, this, &LayerLinesView::close_view);
    connect(&session->results(), &Results::analysed, this, &LayerLinesView::follow);
    connect(&session->workspace(), &Workspace::active_part_changed, this, &LayerLinesView::follow);
    connect(&session->workspace(), &Workspace::cut_changed, this, &LayerLinesView::follow);
    connect(&session->workspace(), &Workspace::stretch_changed, this, &LayerLinesView::close_view);
    beat_.setInterval(beat_ms);
    connect(&beat_, &QTimer::timeout, this, [this] {
        // By the clock: where drawing takes longer than a beat more is laid at once.
        const double next = laid_s_ + double(since_.restart()) / 1000 * speed_->currentData().toDouble();
        if (next < canvas_->seconds(layer_)) return lay(next);
        lay(1e18);
        switch_play();
    });
}

void LayerLinesView::make_head() {
    auto* head = new QHBoxLayout;
    words_ = new QLabel(this);
    words_->setFont(theme::words(13, QFont::Bold));
    words_->setWordWrap(true);
    head->addWidget(words_, 1);
    below_ = new QComboBox(this);
    below_->setAccessibleName("Layers shown");
    below_->setToolTip("Layers under it are shown paler");
    below_->addItem("this layer", 0);
    below_->addItem("on the one below", 1);
    below_->addItem("on ten below", 10);
    below_->addItem("on all below", 1'000'000);
    connect(below_, &QComboBox::currentIndexChanged, this,
            [this] { canvas_->set_below(below_->currentData().toULongLong()); });
    head->addWidget(below_);
    whole_ = new QComboBox(this);
    whole_->setAccessibleName("What is shown of the bed");
    whole_->addItem("the part");
    whole_->addItem("its whole bed");
    connect(whole_, &QComboBox::currentIndexChanged, this, [this] {
        if (isHidden()) return;
        lines_ = nullptr;
        posed_ = nullptr;
        bed_of_ = nullptr;
        canvas_->set_lines(nullptr, {});
        follow();
    });
    head->addWidget(whole_);
    stop_ = new QPushButton("Stop before it", this);
    stop_->setToolTip("The print stops before this layer: to change the colour, to lay something in");
    connect(stop_, &QPushButton::clicked, this, &LayerLinesView::stop_here);
    head->addWidget(stop_);
    write_ = new QPushButton("Write …", this);
    write_->setToolTip("The lines as G-code, to be looked at elsewhere: not for a machine");
    connect(write_, &QPushButton::clicked, this, &LayerLinesView::ask_write);
    head->addWidget(write_);
    auto* done = new QPushButton("Done", this);
    done->setToolTip("Back to the part (Esc)");
    connect(done, &QPushButton::clicked, this, &LayerLinesView::close_view);
    head->addWidget(done);
    static_cast<QVBoxLayout*>(layout())->addLayout(head);
}

void LayerLinesView::make_foot() {
    auto* foot = new QHBoxLayout;
    play_ = new QPushButton("Play", this);
    play_->setToolTip("Lays the lines one after the other (Space)");
    connect(play_, &QPushButton::clicked, this, &LayerLinesView::switch_play);
    foot->addWidget(play_);
    speed_ = new QComboBox(this);
    speed_->setAccessibleName("How fast it plays");
    speed_->addItem("as printed", 1.0);
    speed_->addItem("5 times", 5.0);
    speed_->addItem("20 times", 20.0);
    speed_->addItem("100 times", 100.0);
    speed_->setCurrentIndex(2);
    foot->addWidget(speed_);
    along_ = new QSlider(Qt::Horizontal, this);
    along_->setRange(0, slider_parts);
    along_->setPageStep(slider_parts / 10);
    along_->setAccessibleName("How much of the layer is laid");
    connect(along_, &QSlider::valueChanged, this,
            [this](int part) { lay(part == slider_parts ? 1e18 : canvas_->seconds(layer_) * part / slider_parts); });
    foot->addWidget(along_, 1);
    clock_ = new QLabel(this);
    clock_->setFont(theme::numbers(12));
    foot->addWidget(clock_);
    static_cast<QVBoxLayout*>(layout())->addLayout(foot);
}

void LayerLinesView::turn_over() {
    if (!isHidden() && !of_a_file()) return close_view();
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    if (!part || part->stand_in) return session_->say("A stand-in is not printed. Choose a part that is.", true);
    close_view();
    open();
    follow();
}

void LayerLinesView::open() {
    setGeometry(over_->rect());
    laid_s_ = 1e18;
    cut_before_ = session_->workspace().cut_height();
    show();
    raise();
    canvas_->setFocus();
    about_->clear();
    lines_ = nullptr;
    posed_ = nullptr;
    canvas_->set_lines(nullptr, {});
}

void LayerLinesView::look_at_plan(const QString& file) {
    close_view();
    open();
    file_ = file;
    write_->setVisible(false);
    stop_->setVisible(false);
    whole_->setVisible(false);
    clear_legend();
    words_->setText("Reading " + QFileInfo(file).fileName() + " …");
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    std::shared_ptr<const PartAnalysis> known;
    if (part && session_->results().analysis())
        for (const auto& one : session_->results().analysis()->parts)
            if (one->part == part->id) known = one;
    session_->worker().start(
        Lane::Asked, "print plan",
        [this, file, known, name = part ? QString::fromStdString(part->name) : QString(),
         printer = session_->project()->printer,
         material = part ? material_of(*session_->project(), *part) : MaterialCard()](const Task& task) {
            auto read = read_plan(file, known.get(), name, printer, material, task);
            session_->worker().post([this, file, read = std::move(read)]() mutable {
                if (file != file_ || isHidden()) return;
                if (read) return take(read->lines, as_shown(read->words));
                if (read.error().code == ProblemCode::Cancelled) return close_view();
                words_->setText(QFileInfo(file).fileName() + ": " + QString::fromStdString(read.error().text()));
            });
        });
}

void LayerLinesView::follow() {
    if (isHidden() || of_a_file()) return;
    if (of_the_bed()) return plan_bed();
    const PartId id = session_->workspace().active_part();
    const PartAnalysis* known = session_->results().analysis() ? session_->results().analysis()->part(id) : nullptr;
    if (!known || !known->posed) {
        words_->setText("The part has no body yet, or is not printed.");
        return;
    }
    const PartPtr its = session_->project()->part(id);
    const bool same_layers = its && its->bands == bands_ && session_->project()->printer == card_;
    if (known->posed != posed_ || known->supports_shape != supports_ || !same_layers) {
        posed_ = known->posed;
        supports_ = known->supports_shape;
        card_ = session_->project()->printer;
        bands_ = its ? its->bands : std::vector<TypedBand>();
        return plan();
    }
    if (!lines_ || lines_->layers.empty()) return;
    const auto& cut = session_->workspace().cut_height();
    size_t layer = lines_->layers.size() - 1;
    while (cut && layer > 0 && lines_->bottom(layer) >= *cut - 1e-6) --layer;
    show_layer(layer);
}

void LayerLinesView::show_layer(size_t layer) {
    if (layer != layer_) laid_s_ = 1e18;
    layer_ = layer;
    canvas_->set_layer(layer_);
    show_words();
    show_laid();
}

void LayerLinesView::plan() {
    const PartId id = session_->workspace().active_part();
    const PartAnalysis* known = session_->results().analysis()->part(id);
    const PartPtr part = session_->project()->part(id);
    words_->setText("Planning the lines …");
    clear_legend();
    session_->worker().start(
        Lane::Asked, "lines",
        [this, posed = known->posed, shape = known->supports_shape, supports = known->supports.mesh,
         brim = known->supports.brim,
         options = layer_options(*session_->results().evaluation(), *part, known->pose)](const Task& task) {
            auto lines = part_lines(*posed, supports, options, task, brim);
            QString about;
            if (lines) {
                const LineTimes times = line_times(lines->layers);
                about = "All of it " + QString::fromStdString(format_duration(times.total_s())) +
                        " by the motion of the head, as assumed: " + time_words(times) + ".";
            }
            session_->worker().post([this, posed, shape, about, lines = std::move(lines)]() mutable {
                // Another one is planned by now: stopping this one closes nothing.
                if (posed != posed_ || shape != supports_ || isHidden()) return;
                if (lines) return take(std::make_shared<const PartLines>(std::move(*lines)), about);
                if (lines.error().code == ProblemCode::Cancelled) return close_view();
                words_->setText(QString::fromStdString(lines.error().text()));
            });
        });
}

bool LayerLinesView::of_the_bed() const {
    return !of_a_file() && whole_->currentIndex() == 1;
}

void LayerLinesView::plan_bed() {
    const auto analysis = session_->results().shared_analysis();
    if (!analysis || !session_->results().analysis_is_current() || analysis == bed_of_) return;
    bed_of_ = analysis;
    words_->setText("Planning the lines of the bed …");
    clear_legend();
    session_->worker().start(Lane::Asked, "lines",
                             [this, analysis, evaluation = *session_->results().evaluation(),
                              part = session_->workspace().active_part()](const Task& task) {
                                 Expected<PartLines> lines =
                                     problem(ProblemCode::Missing, "The part does not stand on a bed.");
                                 QString about;
                                 for (const BedItem& item : bed_plan_of(evaluation, *analysis).items)
                                     if (item.part == part) {
                                         lines = lines_of_bed(evaluation, *analysis, item.spot.bed, task);
                                         about = QString("Bed %1. ").arg(item.spot.bed + 1);
                                         break;
                                     }
                                 if (lines) {
                                     const LineTimes times = line_times(lines->layers);
                                     about += "All of it " + QString::fromStdString(format_duration(times.total_s())) +
                                              " by the motion of the head, as assumed: " + time_words(times) + ".";
                                 }
                                 session_->worker().post([this, analysis, about, lines = std::move(lines)]() mutable {
                                     if (analysis != bed_of_ || isHidden() || !of_the_bed()) return;
                                     if (lines)
                                         return take(std::make_shared<const PartLines>(std::move(*lines)), about);
                                     if (lines.error().code == ProblemCode::Cancelled) return close_view();
                                     words_->setText(QString::fromStdString(lines.error().text()));
                                 });
                             });
}

void LayerLinesView::take(std::shared_ptr<const PartLines> lines, const QString& about) {
    lines_ = std::move(lines);
    about_->setText(about);
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    canvas_->set_lines(lines_, QColor(part ? QString::fromStdString(part->colour) : QString("#b9aa8f")));
    canvas_->fit();
    if (goes_with_strip())
        follow();
    else
        show_layer(lines_->layers.size() - 1);
}

void LayerLinesView::stop_here() {
    if (!lines_ || !goes_with_strip() || layer_ <= lines_->raft) return;
    const PartId part = session_->workspace().active_part();
    const std::string at = format_quantity(lines_->bottom(layer_), QuantityKind::Length, 4);
    if (auto wrong = add_stop(session_, part, at)) return session_->say(QString::fromStdString(wrong->text()), true);
    session_->say(QString("Stops before layer %1, at %2. What for is told under Bed.")
                      .arg(layer_ + 1)
                      .arg(as_shown(QString::fromStdString(at))));
}

void LayerLinesView::ask_write() {
    if (!lines_) return;
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    const std::string name = (of_the_bed() ? "bed" : file_name_of(part ? part->name : "plan")) + ".gcode";
    const QString file =
        QFileDialog::getSaveFileName(this, "Write the lines", QString::fromStdString(name), plan_filter());
    if (!file.isEmpty()) write_to(file);
}

void LayerLinesView::write_to(const QString& file) {
    if (!lines_ || of_a_file()) return;
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    GcodeOptions how;
    how.title = part ? part->name : "";
    how.filament_mm = part ? material_of(*session_->project(), *part).filament_mm : how.filament_mm;
    const PartAnalysis* known =
        session_->results().analysis() && part ? session_->results().analysis()->part(part->id) : nullptr;
    for (size_t i = 0; known && goes_with_strip() && i < known->pauses.size(); ++i)
        how.stops.push_back({known->pauses[i].layer_with_raft() - 1, known->pauses[i].words()});
    session_->worker().start(Lane::Asked, "write plan", [this, file, how, lines = lines_](const Task& task) {
        auto text = write_gcode(*lines, how, task);
        std::optional<Problem> wrong = text ? write_file_safely(file.toStdString(), *text) : text.error();
        session_->worker().post([this, file, wrong] {
            if (wrong && wrong->code == ProblemCode::Cancelled) return;
            session_->say(wrong ? QString::fromStdString(wrong->text())
                                : "Wrote the lines to " + QFileInfo(file).fileName() +
                                      ". They are to be looked at: no machine can print them.",
                          wrong.has_value());
        });
    });
}

void LayerLinesView::clear_legend() {
    while (QLayoutItem* item = legend_->layout()->takeAt(0)) {
        delete item->widget();
        delete item;
    }
}

void LayerLinesView::show_words() {
    const LayerLines& layer = lines_->layers[layer_];
    double length = 0, longest = 0;
    std::array<bool, line_kinds> used{};
    for (const PlannedLine& line : layer.lines) {
        length += layer.length_mm(line);
        used[size_t(line.kind)] = true;
    }
    stop_->setEnabled(goes_with_strip() && layer_ > lines_->raft);
    for (const LooseRun& run : lines_->loose[layer_]) longest = std::max(longest, run.length_mm);
    const LineTimes times = line_times({layer});
    const bool raft = layer_ < lines_->raft;
    const double above_bed = raft ? double(lines_->raft) * lines_->heights.layer_mm : 0;
    const double bottom = lines_->bottom(layer_) + above_bed, top = bottom + lines_->thickness(layer_);
    QString which = QString("Layer %1 of %2").arg(layer_ + 1).arg(lines_->layers.size());
    if (raft)
        which = QString("Raft, layer %1 of %2").arg(layer_ + 1).arg(lines_->raft);
    else if (lines_->raft > 0)
        which = QString("Layer %1 of %2 (%3 with the raft)")
                    .arg(layer_ + 1 - lines_->raft)
                    .arg(lines_->layers.size() - lines_->raft)
                    .arg(layer_ + 1);
    if (of_a_file()) which = QFileInfo(file_).fileName() + ": " + which.toLower();
    QString words =
        QString("%1, %2 to %3: %4, %5 m, %6")
            .arg(which)
            .arg(QString::fromStdString(format_fixed(bottom, 2)), QString::fromStdString(format_fixed(top, 2) + " mm"),
                 QString::fromStdString(counted(layer.lines.size(), "line", "lines")),
                 QString::fromStdString(format_number(length / 1000, 1)),
                 QString::fromStdString(format_duration(times.total_s() - times.start_s)));
    words = as_shown(words);
    const size_t loose = lines_->loose[layer_].size();
    if (loose > 0)
        words += as_shown(QString(". %1 on nothing, the longest over %2")
                              .arg(QString::fromStdString(counted(loose, "run lies", "runs lie")), mm(longest, 1)));
    words_->setText(words + ".");
    clear_legend();
    const PartPtr part = session_->project()->part(session_->workspace().active_part());
    const QColor filament(part ? QString::fromStdString(part->colour) : QString("#b9aa8f"));
    for (size_t k = 0; k < line_kinds; ++k) {
        if (!used[k]) continue;
        auto* sample = new KindSample(line_kind_words(LineKind(k)), look_of(LineKind(k), filament), legend_);
        legend_->layout()->addWidget(sample);
        sample->show();
    }
}

void LayerLinesView::show_laid() {
    if (!lines_ || layer_ >= lines_->layers.size()) return;
    canvas_->set_laid(laid_s_);
    const double all = canvas_->seconds(layer_), laid = std::min(laid_s_, all);
    const QSignalBlocker quiet(along_);
    along_->setValue(all > 0 ? int(std::lround(laid / all * slider_parts)) : slider_parts);
    clock_->setText(QString("%1 of %2 s").arg(laid, 0, 'f', 1).arg(all, 0, 'f', 1));
}

QString LayerLinesView::about() const {
    return about_->text();
}

QString LayerLinesView::words() const {
    return words_->text();
}

void LayerLinesView::go_up(int layers) {
    if (!lines_ || lines_->layers.empty()) return;
    const long last = long(lines_->layers.size()) - 1, to = std::clamp(long(layer_) + layers, 0L, last);
    laid_s_ = 1e18;
    if (!goes_with_strip()) return show_layer(size_t(to));
    if (to == last)
        session_->workspace().set_cut_height(std::nullopt);
    else
        session_->workspace().set_cut_height(lines_->bottom(size_t(to) + 1));
}

/// To the end of the line that is being laid, or of the one before.
void LayerLinesView::go_on(int by) {
    if (!lines_ || layer_ >= lines_->layers.size()) return;
    const std::vector<double> ends = laid_at(lines_->layers[layer_]);
    constexpr double same_s = 1e-6;
    const double now = std::min(laid_s_, ends.back());
    size_t done = 0;
    while (done + 1 < ends.size() && ends[done + 1] <= now + same_s) ++done;
    const bool between = by < 0 && now > ends[done] + same_s;
    const long to = std::clamp(long(done) + by + (between ? 1 : 0), 0L, long(ends.size()) - 1);
    lay(ends[size_t(to)]);
}

void LayerLinesView::lay(double seconds) {
    laid_s_ = seconds;
    show_laid();
}

void LayerLinesView::switch_play() {
    if (beat_.isActive()) {
        beat_.stop();
    } else if (lines_) {
        if (laid_s_ >= canvas_->seconds(layer_)) lay(0);
        since_.start();
        beat_.start();
    }
    play_->setText(beat_.isActive() ? "Hold" : "Play");
}

void LayerLinesView::close_view() {
    if (isHidden()) return;
    if (beat_.isActive()) switch_play();
    const bool had_focus = isAncestorOf(QApplication::focusWidget());
    hide();
    file_.clear();
    write_->setVisible(true);
    stop_->setVisible(true);
    whole_->setVisible(true);
    lines_ = nullptr;
    posed_ = nullptr;
    canvas_->set_lines(nullptr, {});
    session_->workspace().set_cut_height(cut_before_);
    if (had_focus) over_->setFocus();
}

bool LayerLinesView::eventFilter(QObject* object, QEvent* event) {
    if (object == over_ && event->type() == QEvent::Resize && !isHidden()) setGeometry(over_->rect());
    return false;
}

} // namespace lp
