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

LinesCanvas::LinesCanvas(QWidget* parent) : QWidget(parent) {
    painter_.setMaxThreadCount(1);
    setFocusPolicy(Qt::StrongFocus);
    setMinimumSize(120, 120);
    setAccessibleName("Lines of the layer, from above");
    setAccessibleDescription("Up and down change the layer, left and right lay a line less or more, Space plays, plus "
                             "and minus zoom, 0 shows all, Escape closes.");
}

void LinesCanvas::set_lines(std::shared_ptr<const PartLines> lines, const QColor& filament) {
    LinesShown fresh(std::move(lines), filament);
    fresh.layer = wanted_.layer;
    fresh.below = wanted_.below;
    fresh.laid_s = wanted_.laid_s;
    fresh.size = wanted_.size;
    fresh.scale = wanted_.scale;
    fresh.middle = wanted_.middle;
    wanted_ = std::move(fresh);
    if (!wanted_.lines) picture_ = {};
    if (!fitted_) fit();
    want();
}

void LinesCanvas::set_layer(size_t layer) {
    wanted_.layer = layer;
    want();
}

void LinesCanvas::set_below(size_t layers) {
    wanted_.below = layers;
    want();
}

void LinesCanvas::set_laid(double seconds) {
    wanted_.laid_s = seconds;
    want();
}

double LinesCanvas::seconds(size_t layer) const {
    return wanted_.lines && layer < wanted_.lines->layers.size() ? laid_at(wanted_.lines->layers[layer]).back() : 0;
}

void LinesCanvas::fit() {
    Eigen::AlignedBox2d box;
    if (wanted_.lines)
        for (const LayerLines& layer : wanted_.lines->layers)
            for (const Vec2& p : layer.places) box.extend(p);
    if (box.isEmpty() || width() < 50) return;
    wanted_.middle = box.center();
    const Vec2 size = box.sizes().cwiseMax(1.0);
    wanted_.scale = 0.9 * std::min(width() / size.x(), height() / size.y());
    fitted_ = true;
    want();
}

void LinesCanvas::want() {
    wanted_.size = size();
    update();
    stale_ = true;
    if (!painting_) start();
}

/// One at a time: however fast things change, each picture that was begun is shown, and then the newest is made.
void LinesCanvas::start() {
    stale_ = false;
    if (!wanted_.lines || size().isEmpty()) return;
    painting_ = true;
    painter_.start([this, shown = wanted_, ratio = devicePixelRatioF()]() mutable {
        LinesShown sharp = shown;
        sharp.size = (QSizeF(shown.size) * ratio).toSize();
        sharp.scale *= ratio;
        QImage image = picture_of(sharp);
        image.setDevicePixelRatio(ratio);
        QMetaObject::invokeMethod(
            this,
            [this, shown = std::move(shown), image = std::move(image)]() mutable {
                painting_ = false;
                if (shown.lines == wanted_.lines) {
                    painted_ = std::move(shown);
                    picture_ = std::move(image);
                    update();
                }
                if (stale_) start();
            },
            Qt::QueuedConnection);
    });
}

/// The last picture, moved and stretched to where its places are now.
void LinesCanvas::draw_picture(QPainter& p) const {
    if (picture_.isNull()) return;
    const double by = wanted_.scale / painted_.scale;
    const QPointF corner = wanted_.to_pixel(painted_.to_place({0, 0}));
    const QRectF to(corner, QSizeF(painted_.size) * by);
    if (by == 1 && corner.manhattanLength() < 1e-6)
        p.drawImage(QPointF(0, 0), picture_);
    else
        p.drawImage(to, picture_, QRectF(QPointF(0, 0), QSizeF(picture_.size())));
}

/// What lies on nothing is named where it is longest.
void LinesCanvas::draw_loose_words(QPainter& p) const {
    const std::vector<double> at_s = laid_at(wanted_.lines->layers[wanted_.layer]);
    std::vector<const LooseRun*> shown;
    for (const LooseRun& run : wanted_.lines->loose[wanted_.layer])
        if (at_s[run.line + 1] <= wanted_.laid_s + 1e-9) shown.push_back(&run);
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
    while (length * wanted_.scale < 40) length *= 10;
    while (length * wanted_.scale > 400) length /= 10;
    const QPointF from(16, height() - 16), to(16 + length * wanted_.scale, height() - 16);
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
    if (wanted_.lines && wanted_.layer < wanted_.lines->layers.size()) {
        draw_picture(p);
        p.setRenderHint(QPainter::Antialiasing);
        draw_loose_words(p);
        draw_scale(p);
    }
    if (!hasFocus()) return;
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(theme::colour(Role::Accent), 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
}

QString LinesCanvas::words_at(const QPointF& at) const {
    if (!wanted_.lines || wanted_.layer >= wanted_.lines->layers.size()) return {};
    const LayerLines& lines = wanted_.lines->layers[wanted_.layer];
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
    for (const LooseRun& run : wanted_.lines->loose[wanted_.layer])
        if (&lines.lines[run.line] == found) {
            words += (run.bridges ? "\nbridges " : "\nhangs over ") + mm(run.length_mm, 1);
            break;
        }
    return as_shown(words);
}

void LinesCanvas::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    wanted_.size = size();
    fit();
}

void LinesCanvas::zoom(double by, const QPointF& at) {
    const Vec2 held = to_place(at);
    wanted_.scale = std::clamp(wanted_.scale * by, 0.2, 2000.0);
    wanted_.middle += held - to_place(at);
    want();
}

void LinesCanvas::wheelEvent(QWheelEvent* event) {
    zoom(std::pow(1.0015, event->angleDelta().y()), event->position());
}

void LinesCanvas::mousePressEvent(QMouseEvent* event) {
    setFocus();
    dragged_ = event->position();
}

void LinesCanvas::mouseMoveEvent(QMouseEvent* event) {
    wanted_.middle += to_place(dragged_) - to_place(event->position());
    dragged_ = event->position();
    want();
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
