#include "app/strip/layer_strip.h"
#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include <QHelpEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QPushButton>
#include <QToolTip>

namespace lp {

using theme::Role;
namespace {
constexpr double top_px = 58, bottom_px = 116, left_px = 30, right_px = 24;
} // namespace

LayerStrip::LayerStrip(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedWidth(theme::strip_width);
    setFocusPolicy(Qt::StrongFocus);
    setAccessibleName("Layers of the part as it lies");
    setAccessibleDescription("Up and down move the cut by a layer, Escape takes it away.");
    lines_ = new QPushButton("Lines", this);
    lines_->setToolTip("The lines of each layer as they will lie, from above; once more: back to the part");
    connect(lines_, &QPushButton::clicked, session, &Session::lines_wanted);
    auto show = [this] {
        lines_->setVisible(plan() != nullptr);
        update();
    };
    connect(&session->document(), &Document::project_changed, this, show);
    connect(&session->results(), &Results::analysed, this, show);
    for (auto fact : {&Workspace::active_part_changed, &Workspace::cut_changed})
        connect(&session->workspace(), fact, this, show);
}

void LayerStrip::resizeEvent(QResizeEvent* event) {
    QWidget::resizeEvent(event);
    lines_->setGeometry(10, height() - 36, width() - 20, 26);
}

const PartAnalysis* LayerStrip::analysis() const {
    const Analysis* all = session_->results().analysis();
    return all ? all->part(session_->workspace().active_part()) : nullptr;
}

const LayerPlan* LayerStrip::plan() const {
    const PartAnalysis* part = analysis();
    return part && part->plan ? &*part->plan : nullptr;
}

double LayerStrip::height_mm() const {
    return plan() ? std::max(plan()->height_mm, 0.1) : 1;
}
double LayerStrip::y_of(double z) const {
    return height() - bottom_px - z / height_mm() * (height() - top_px - bottom_px);
}
double LayerStrip::z_of(double y) const {
    return (height() - bottom_px - y) / (height() - top_px - bottom_px) * height_mm();
}
double LayerStrip::handle_z() const {
    return session_->workspace().cut_height().value_or(height_mm());
}

size_t LayerStrip::layer_at(double z) const {
    const auto& layers = plan()->layers;
    for (size_t i = layers.size(); i-- > 0;)
        if (layers[i].z_mm < z - 1e-6) return i;
    return 0;
}

void LayerStrip::draw_bars(QPainter& p, const LayerPlan& plan) {
    double widest = 1;
    for (const Layer& layer : plan.layers) widest = std::max(widest, layer.area_mm2 + layer.support_area_mm2);
    double room = width() - left_px - right_px;
    // Several layers may share a pixel row: the largest of them is drawn.
    int rows = int(height() - top_px - bottom_px);
    double gap = rows / double(plan.layers.size()) > 3 ? 1 : 0;
    for (const Layer& layer : plan.layers) {
        double y0 = y_of(layer.z_mm + layer.thickness_mm), y1 = y_of(layer.z_mm);
        double w = room * layer.area_mm2 / widest, s = room * layer.support_area_mm2 / widest;
        bool cut = session_->workspace().cut_height() && layer.z_mm >= *session_->workspace().cut_height() - 1e-6;
        QColor bar = theme::colour(layer.unsupported_mm2 > 0.5 ? Role::Hanging : Role::Layer);
        if (cut) bar.setAlpha(70);
        p.fillRect(QRectF(left_px, y0, std::max(1.0, w), std::max(0.6, y1 - y0 - gap)), bar);
        QColor support = theme::colour(Role::LayerSupport);
        if (cut) support.setAlpha(70);
        if (s > 0) p.fillRect(QRectF(left_px + w, y0, s, std::max(0.6, y1 - y0 - gap)), support);
    }
}

void LayerStrip::draw_scale(QPainter& p, const LayerPlan& plan) {
    p.setFont(theme::numbers(11));
    const double tall = height_mm() / shown_unit_mm();
    double step = tall > 120   ? 20
                  : tall > 45  ? 10
                  : tall > 12  ? 5
                  : tall > 4   ? 1
                  : tall > 1.2 ? 0.5
                  : tall > 0.4 ? 0.1
                               : 0.05;
    for (double at = 0; at <= tall + 1e-9; at += step) {
        const double z = at * shown_unit_mm();
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(QRectF(0, y_of(z) - 8, left_px - 9, 16), Qt::AlignRight | Qt::AlignVCenter,
                   QString::fromStdString(format_number(at, 2)));
        p.setPen(theme::colour(Role::Line));
        p.drawLine(QPointF(left_px - 6, y_of(z)), QPointF(left_px - 2, y_of(z)));
    }
    // Marks: where hanging is worst in a run of layers, and material that starts in mid-air.
    double last = 1e9;
    for (size_t k = 0; k < plan.layers.size(); ++k) {
        if (plan.layers[k].unsupported_mm2 <= 0.5) continue;
        double y = y_of(plan.layers[k].z_mm);
        if (last - y < 20 && last < 1e8) continue;
        theme::draw_finding(p, QRectF(width() - 20, y - 9, 16, 16), row_of(FindingKind::Hanging).mark);
        last = y;
    }
    for (const Island& island : plan.islands)
        theme::draw_finding(p, QRectF(width() - 38, y_of(island.z_mm) - 9, 16, 16), row_of(FindingKind::MidAir).mark);
}

/// Where the print stops for a thing to be laid in: a dashed line with two upright strokes at its end.
void LayerStrip::draw_pauses(QPainter& p) {
    const QColor ink = theme::colour(Role::Ink);
    for (const PartPause& pause : analysis()->pauses) {
        const double y = y_of(pause.pause.at_mm), x = width() - 36;
        p.setPen(QPen(ink, 1.2, Qt::DashLine));
        p.drawLine(QPointF(left_px - 4, y), QPointF(x - 4, y));
        p.fillRect(QRectF(x, y - 6, 4, 12), ink);
        p.fillRect(QRectF(x + 7, y - 6, 4, 12), ink);
    }
}

void LayerStrip::draw_handle(QPainter& p, const LayerPlan& plan) {
    double y = y_of(handle_z());
    QColor accent = theme::colour(Role::Accent);
    p.setPen(QPen(accent, 2));
    p.drawLine(QPointF(left_px - 4, y), QPointF(width() - 9, y));
    p.setBrush(accent);
    p.setPen(Qt::NoPen);
    p.drawPolygon(QPolygonF({{width() - 13.0, y - 7}, {width() - 3.0, y}, {width() - 13.0, y + 7}}));
    p.setPen(theme::colour(Role::SoftInk));
    p.setFont(theme::words(11.5));
    double base = height() - bottom_px + 18;
    if (session_->workspace().cut_height()) {
        p.drawText(QRectF(0, base, width(), 18), Qt::AlignHCenter, "cut at");
        p.setFont(theme::numbers(12.5, true));
        p.setPen(theme::colour(Role::Brass));
        p.drawText(QRectF(0, base + 15, width(), 17), Qt::AlignHCenter, as_shown(format_fixed(handle_z(), 2) + " mm"));
        p.setFont(theme::words(11.5));
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(QRectF(0, base + 33, width(), 18), Qt::AlignHCenter,
                   "layer " + QString::number(layer_at(handle_z()) + 1));
    } else {
        p.drawText(QRectF(0, base, width(), 18), Qt::AlignHCenter, QString::number(plan.layers.size()) + " layers");
        p.drawText(QRectF(0, base + 16, width(), 18), Qt::AlignHCenter,
                   QString::fromStdString(format_duration(plan.time_s)));
        p.drawText(QRectF(0, base + 32, width(), 18), Qt::AlignHCenter,
                   QString::fromStdString(format_number(plan.mass_g, 1)) + " g");
    }
}

void LayerStrip::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    p.fillRect(rect(), theme::colour(Role::Card));
    p.fillRect(QRect(0, 0, 1, height()), theme::colour(Role::Line));
    p.setPen(theme::colour(Role::SoftInk));
    p.setFont(theme::words(11.5));
    p.drawText(QRectF(4, 8, width() - 8, 16), Qt::AlignHCenter, "layers, as it lies");
    const LayerPlan* plan = this->plan();
    if (!plan) {
        p.drawText(QRectF(8, 60, width() - 16, 100), Qt::AlignHCenter | Qt::TextWordWrap,
                   session_->project()->parts.empty() ? "no part yet"
                                                      : "a stand-in is not printed, or the part has no body");
        return;
    }
    p.setFont(theme::numbers(11));
    p.drawText(QRectF(0, 28, width(), 16), Qt::AlignHCenter, as_shown(format_number(plan->height_mm, 1) + " mm"));
    draw_bars(p, *plan);
    draw_scale(p, *plan);
    draw_pauses(p);
    draw_handle(p, *plan);
    QColor accent = theme::colour(Role::Accent);
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(accent, 2));
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

void LayerStrip::cut_at(double z) {
    if (!plan()) return;
    // The cut stands on layers: what is shown is what has been laid.
    size_t layer = layer_at(std::clamp(z, 0.0, height_mm()));
    const Layer& l = plan()->layers[layer];
    double top = l.z_mm + l.thickness_mm;
    if (z >= height_mm() - l.thickness_mm * 0.4)
        session_->workspace().set_cut_height(std::nullopt);
    else
        session_->workspace().set_cut_height(top);
}

void LayerStrip::mousePressEvent(QMouseEvent* event) {
    setFocus();
    dragging_ = true;
    cut_at(z_of(event->position().y()));
}
void LayerStrip::mouseMoveEvent(QMouseEvent* event) {
    if (dragging_) cut_at(z_of(event->position().y()));
}
void LayerStrip::mouseReleaseEvent(QMouseEvent*) {
    dragging_ = false;
}
void LayerStrip::mouseDoubleClickEvent(QMouseEvent*) {
    session_->workspace().set_cut_height(std::nullopt);
}

void LayerStrip::wheelEvent(QWheelEvent* event) {
    if (!plan()) return;
    double layer = plan()->layers.back().thickness_mm;
    cut_at(handle_z() + (event->angleDelta().y() > 0 ? layer : -layer) * 1.0);
}

void LayerStrip::keyPressEvent(QKeyEvent* event) {
    if (!plan()) return QWidget::keyPressEvent(event);
    double layer = plan()->layers.back().thickness_mm * (event->modifiers() & Qt::ShiftModifier ? 10 : 1);
    if (event->key() == Qt::Key_Up)
        cut_at(handle_z() + layer);
    else if (event->key() == Qt::Key_Down)
        cut_at(handle_z() - layer);
    else if (event->key() == Qt::Key_Home)
        cut_at(0.01);
    else if (event->key() == Qt::Key_Escape || event->key() == Qt::Key_End)
        session_->workspace().set_cut_height(std::nullopt);
    else
        QWidget::keyPressEvent(event);
}

bool LayerStrip::event(QEvent* event) {
    if (event->type() == QEvent::ToolTip && plan()) {
        auto* help = static_cast<QHelpEvent*>(event);
        double z = z_of(help->pos().y());
        if (z < 0 || z > height_mm()) return true;
        const Layer& layer = plan()->layers[layer_at(z)];
        QString text = QString("layer %1, z %2 mm\n%3 mm² of plastic")
                           .arg(layer_at(z) + 1)
                           .arg(QString::fromStdString(format_number(layer.z_mm, 2)),
                                QString::fromStdString(format_number(layer.area_mm2, 1)));
        if (layer.support_area_mm2 > 0)
            text +=
                QString("\n%1 mm² of supports").arg(QString::fromStdString(format_number(layer.support_area_mm2, 1)));
        if (layer.unsupported_mm2 > 0)
            text += QString("\n%1 mm² on nothing").arg(QString::fromStdString(format_number(layer.unsupported_mm2, 1)));
        constexpr double near_px = 8;
        for (const PartPause& pause : analysis()->pauses)
            if (std::fabs(y_of(pause.pause.at_mm) - help->pos().y()) < near_px)
                text += "\nstop: " + QString::fromStdString(pause.words());
        QToolTip::showText(help->globalPos(), as_shown(text), this);
        return true;
    }
    return QWidget::event(event);
}

} // namespace lp
