#include "app/strip/lines_canvas.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include "base/quantity.h"
#include <QHelpEvent>
#include <QKeyEvent>
#include <QPainter>
#include <QToolTip>

namespace lp {

using theme::Role;

namespace {

QColor mixed(const QColor& a, const QColor& b, double share) {
    auto part = [&](int x, int y) { return int(std::lround(x + (y - x) * share)); };
    return {part(a.red(), b.red()), part(a.green(), b.green()), part(a.blue(), b.blue())};
}

/// The places of a line as a figure of so much of its length.
QPolygonF figure(const LayerLines& layer, const PlannedLine& line, double share) {
    QPolygonF places;
    const uint32_t n = line.count + (line.closed ? 1 : 0);
    double left = share >= 1 ? 1e18 : layer.length_mm(line) * share;
    for (uint32_t i = 0; i < n; ++i) {
        const Vec2& p = layer.places[line.first + i % line.count];
        if (i > 0) {
            const Vec2& before = layer.places[line.first + i - 1];
            const double step = (p - before).norm();
            if (step > left) {
                const Vec2 end = before + (p - before) * (left / step);
                places << QPointF(end.x(), end.y());
                break;
            }
            left -= step;
        }
        places << QPointF(p.x(), p.y());
    }
    return places;
}

} // namespace

std::vector<double> laid_at(const LayerLines& layer) {
    std::vector<double> at{0};
    for (const PlannedLine& line : layer.lines)
        at.push_back(at.back() + layer.length_mm(line) / std::max(1.0, double(line.speed_mm_s)));
    return at;
}

LineLook look_of(LineKind kind, const QColor& filament) {
    const QColor ink = theme::colour(Role::Ink), paper = theme::colour(Role::ViewTop);
    switch (kind) {
    case LineKind::OuterWall:
        return {mixed(filament, ink, 0.35)};
    case LineKind::InnerWall:
        return {filament, Qt::SolidLine};
    case LineKind::Gap:
        return {mixed(filament, ink, 0.35), Qt::DotLine};
    case LineKind::Solid:
        return {mixed(filament, paper, 0.35)};
    case LineKind::Bridge:
        return {mixed(filament, paper, 0.35), Qt::DashLine};
    case LineKind::Sparse:
        return {mixed(filament, paper, 0.6)};
    case LineKind::Support:
        break;
    }
    return {theme::colour(Role::LayerSupport), Qt::DashDotLine};
}

LinesCanvas::LinesCanvas(QWidget* parent) : QWidget(parent), filament_(theme::colour(Role::Layer)) {
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(120, 120);
    setAccessibleName("Lines of the layer, from above");
    setAccessibleDescription("Up and down change the layer, left and right lay a line less or more, Space plays, plus "
                             "and minus zoom, 0 shows all, Escape closes.");
}

void LinesCanvas::set_lines(std::shared_ptr<const PartLines> lines, const QColor& filament) {
    lines_ = std::move(lines);
    filament_ = filament;
    if (!fitted_) fit();
    update();
}

void LinesCanvas::set_layer(size_t layer) {
    layer_ = layer;
    update();
}

void LinesCanvas::set_below(bool shown) {
    below_ = shown;
    update();
}

void LinesCanvas::set_laid(double seconds) {
    laid_s_ = seconds;
    update();
}

double LinesCanvas::seconds(size_t layer) const {
    return lines_ && layer < lines_->layers.size() ? laid_at(lines_->layers[layer]).back() : 0;
}

void LinesCanvas::fit() {
    Eigen::AlignedBox2d box;
    if (lines_)
        for (const LayerLines& layer : lines_->layers)
            for (const Vec2& p : layer.places) box.extend(p);
    if (box.isEmpty() || width() < 50) return;
    middle_ = box.center();
    const Vec2 size = box.sizes().cwiseMax(1.0);
    scale_ = 0.9 * std::min(width() / size.x(), height() / size.y());
    fitted_ = true;
    update();
}

QPointF LinesCanvas::to_pixel(const Vec2& place) const {
    return {width() / 2.0 + (place.x() - middle_.x()) * scale_, height() / 2.0 - (place.y() - middle_.y()) * scale_};
}

Vec2 LinesCanvas::to_place(const QPointF& at) const {
    return {middle_.x() + (at.x() - width() / 2.0) / scale_, middle_.y() - (at.y() - height() / 2.0) / scale_};
}

/// A long line that lies on itself many times is slow to fill as one figure: a few corners at a time cost the same
/// each.
static void draw_in_pieces(QPainter& p, const QPolygonF& places) {
    constexpr int corners = 12;
    for (int i = 0; i + 1 < places.size(); i += corners - 1)
        p.drawPolyline(places.constData() + i, std::min(corners, int(places.size()) - i));
}

void LinesCanvas::draw_layer(QPainter& p, size_t layer, double until_s, bool pale) const {
    const LayerLines& lines = lines_->layers[layer];
    constexpr double told_from_px = 5; // narrower lines have no room for a pattern
    p.save();
    p.translate(width() / 2.0, height() / 2.0);
    p.scale(scale_, -scale_);
    p.translate(-middle_.x(), -middle_.y());
    const std::vector<double> at = laid_at(lines);
    for (size_t i = 0; i < lines.lines.size() && at[i] < until_s; ++i) {
        const PlannedLine& line = lines.lines[i];
        const double takes = at[i + 1] - at[i];
        const QPolygonF places = figure(lines, line, takes > 0 ? (until_s - at[i]) / takes : 1);
        LineLook look = look_of(line.kind, filament_);
        constexpr double paleness = 0.75;
        if (pale) look.colour = mixed(look.colour, theme::colour(Role::ViewTop), paleness);
        // Round ends and corners are dear: rows, of which there are most, go without.
        const bool wall = line.kind == LineKind::OuterWall || line.kind == LineKind::InnerWall;
        p.setPen(QPen(look.colour, double(line.width_mm) * 0.94, Qt::SolidLine, wall ? Qt::RoundCap : Qt::SquareCap,
                      wall ? Qt::RoundJoin : Qt::BevelJoin));
        draw_in_pieces(p, places);
        if (look.middle == Qt::NoPen || pale || double(line.width_mm) * scale_ < told_from_px) continue;
        QPen middle(theme::colour(Role::Ink), 0, look.middle);
        middle.setCosmetic(true);
        p.setPen(middle);
        draw_in_pieces(p, places);
    }
    p.restore();
}

/// What lies on nothing, ringed and named where it is longest.
void LinesCanvas::draw_loose(QPainter& p, double until_s) const {
    const LayerLines& lines = lines_->layers[layer_];
    const std::vector<double> at_s = laid_at(lines);
    std::vector<const LooseRun*> shown;
    for (const LooseRun& run : lines_->loose[layer_])
        if (at_s[run.line + 1] <= until_s + 1e-9) shown.push_back(&run);
    for (const LooseRun* run : shown) {
        QPolygonF places;
        for (const Vec2& at : run->path) places << to_pixel(at);
        p.setPen(QPen(theme::colour(Role::Hanging), 2.5, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
        p.drawPolyline(places);
    }
    std::sort(shown.begin(), shown.end(), [](auto* a, auto* b) { return a->length_mm > b->length_mm; });
    p.setFont(theme::words(12, QFont::Bold));
    QList<QRectF> taken;
    constexpr size_t most = 3;
    for (const LooseRun* run : shown) {
        if (taken.size() == int(most)) break;
        const QString words =
            as_shown((run->bridges ? QString("bridges ") : QString("hangs ")) +
                     QString::fromStdString(format_quantity(run->length_mm, QuantityKind::Length, 1)));
        const QPointF at = to_pixel(run->path[run->path.size() / 2]);
        const double wide = p.fontMetrics().horizontalAdvance(words) + 12;
        const QRectF box(std::clamp(at.x() + 8, 2.0, std::max(2.0, width() - wide - 2)),
                         std::clamp(at.y() - 11, 2.0, std::max(2.0, height() - 22.0)), wide, 20);
        if (std::any_of(taken.begin(), taken.end(), [&](const QRectF& t) { return t.intersects(box); })) continue;
        taken << box;
        p.fillRect(box, theme::colour(Role::Card));
        p.setPen(QPen(theme::colour(Role::Hanging), 1));
        p.drawRect(box);
        p.setPen(theme::colour(Role::Ink));
        p.drawText(box, Qt::AlignCenter, words);
    }
}

void LinesCanvas::draw_scale(QPainter& p) const {
    double length = shown_unit_mm();
    while (length * scale_ < 40) length *= 10;
    while (length * scale_ > 400) length /= 10;
    const QPointF from(16, height() - 16), to(16 + length * scale_, height() - 16);
    p.setPen(QPen(theme::colour(Role::Ink), 2));
    p.drawLine(from, to);
    p.drawLine(from - QPointF(0, 5), from + QPointF(0, 5));
    p.drawLine(to - QPointF(0, 5), to + QPointF(0, 5));
    p.setFont(theme::numbers(11));
    p.drawText(QRectF(from.x(), from.y() - 20, 200, 16), Qt::AlignLeft | Qt::AlignVCenter,
               as_shown(QString::fromStdString(format_quantity(length, QuantityKind::Length, 3))));
}

void LinesCanvas::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.fillRect(rect(), theme::colour(Role::ViewTop));
    if (lines_ && layer_ < lines_->layers.size()) {
        constexpr size_t many = 60'000; // places; beyond that smooth edges cost more than they show
        p.setRenderHint(QPainter::Antialiasing, lines_->layers[layer_].places.size() < many);
        if (below_ && layer_ > 0) draw_layer(p, layer_ - 1, 1e18, true);
        draw_layer(p, layer_, laid_s_, false);
        draw_loose(p, laid_s_);
        draw_scale(p);
    }
    if (!hasFocus()) return;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme::colour(Role::Accent), 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
}

QString LinesCanvas::words_at(const QPointF& at) const {
    if (!lines_ || layer_ >= lines_->layers.size()) return {};
    const LayerLines& lines = lines_->layers[layer_];
    const Vec2 place = to_place(at);
    const PlannedLine* found = nullptr;
    for (const PlannedLine& line : lines.lines)
        for (uint32_t i = 1; i < line.count + (line.closed ? 1 : 0); ++i) {
            const Vec2 a = lines.places[line.first + i - 1], d = lines.places[line.first + i % line.count] - a;
            const double t = d.squaredNorm() > 0 ? std::clamp((place - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0;
            if ((a + d * t - place).norm() <= double(line.width_mm) / 2) found = &line;
        }
    if (!found) return {};
    auto mm = [](double v, int decimals) {
        return QString::fromStdString(format_quantity(v, QuantityKind::Length, decimals));
    };
    QString words = QString("%1, %2 wide, %3 high, %4 long, %5 mm/s")
                        .arg(line_kind_words(found->kind), mm(found->width_mm, 2), mm(found->height_mm, 2),
                             mm(lines.length_mm(*found), 1))
                        .arg(int(std::lround(found->speed_mm_s)));
    for (const LooseRun& run : lines_->loose[layer_])
        if (&lines.lines[run.line] == found) {
            words += (run.bridges ? "\nbridges " : "\nhangs over ") + mm(run.length_mm, 1);
            break;
        }
    return as_shown(words);
}

void LinesCanvas::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    fit();
}

void LinesCanvas::zoom(double by, const QPointF& at) {
    const Vec2 held = to_place(at);
    scale_ = std::clamp(scale_ * by, 0.2, 2000.0);
    middle_ += held - to_place(at);
    update();
}

void LinesCanvas::wheelEvent(QWheelEvent* event) {
    zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
}

void LinesCanvas::mousePressEvent(QMouseEvent* event) {
    setFocus();
    dragged_ = event->position();
}

void LinesCanvas::mouseMoveEvent(QMouseEvent* event) {
    middle_ += to_place(dragged_) - to_place(event->position());
    dragged_ = event->position();
    update();
}

void LinesCanvas::keyPressEvent(QKeyEvent* event) {
    constexpr int page = 10, far = 1'000'000;
    switch (event->key()) {
    case Qt::Key_Up:
        return emit layer_wanted(1);
    case Qt::Key_Down:
        return emit layer_wanted(-1);
    case Qt::Key_PageUp:
        return emit layer_wanted(page);
    case Qt::Key_PageDown:
        return emit layer_wanted(-page);
    case Qt::Key_Home:
        return emit layer_wanted(-far);
    case Qt::Key_End:
        return emit layer_wanted(far);
    case Qt::Key_Left:
        return emit line_wanted(-1);
    case Qt::Key_Right:
        return emit line_wanted(1);
    case Qt::Key_Space:
        return emit play_wanted();
    case Qt::Key_Plus:
        return zoom(1.25, rect().center());
    case Qt::Key_Minus:
        return zoom(0.8, rect().center());
    case Qt::Key_0:
        return fit();
    case Qt::Key_Escape:
        return emit closed();
    default:
        QWidget::keyPressEvent(event);
    }
}

bool LinesCanvas::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip) {
        auto* help = static_cast<QHelpEvent*>(event);
        const QString words = words_at(help->pos());
        if (words.isEmpty())
            QToolTip::hideText();
        else
            QToolTip::showText(help->globalPos(), words, this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace lp
