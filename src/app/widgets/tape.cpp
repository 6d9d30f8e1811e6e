#include "app/widgets/tape.h"
#include "app/theme/theme.h"
#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>

namespace lp {

using theme::Role;
namespace {
constexpr int stretches = 5;
constexpr int widest_px = 128, narrowest_px = 88;
} // namespace

Tape::Tape(Session* session, QWidget* parent) : QWidget(parent), session_(session) {
    setFixedHeight(40);
    setMinimumWidth(stretches * narrowest_px + 2);
    setMaximumWidth(stretches * widest_px + 2);
    setSizePolicy(QSizePolicy::Expanding, QSizePolicy::Fixed);
    setFocusPolicy(Qt::StrongFocus);
    setMouseTracking(true);
    setAccessibleName("Stretches of the work");
    auto show = [this] { update(); };
    connect(&session->document(), &Document::project_changed, this, show);
    connect(&session->workspace(), &Workspace::stretch_changed, this, show);
    for (auto fact : {&Results::evaluated, &Results::analysed}) connect(&session->results(), fact, this, show);
    setToolTip("Left and right arrow keys go along the tape");
}

QString Tape::name_of(Stretch stretch) {
    static const char* names[] = {"Shape", "Fit", "Check", "Bed", "Export"};
    return names[int(stretch)];
}

QRectF Tape::stretch_rect(Stretch stretch) const {
    const double wide = (width() - 2.0) / stretches;
    return {1 + int(stretch) * wide, 1, wide, 38};
}

int Tape::open_at(Stretch stretch) const {
    const Evaluation* evaluation = session_->results().evaluation();
    if (!evaluation || stretch == Stretch::Export) return 0;
    return int(open_findings(*evaluation, session_->results().analysis(), FindingStage(stretch)));
}

void Tape::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    QRectF all(1, 1, width() - 2, 38);
    QPainterPath outline;
    outline.addRoundedRect(all, 3, 3);
    p.fillPath(outline, theme::colour(Role::Tape));
    p.save();
    p.setClipPath(outline);
    for (int i = 0; i < stretches; ++i) {
        QRectF r = stretch_rect(Stretch(i));
        bool active = int(session_->workspace().stretch()) == i;
        if (active)
            p.fillRect(r, theme::colour(Role::Accent));
        else if (hover_ == i)
            p.fillRect(r, theme::colour(Role::Tape).darker(106));
    }
    // Ticks of a tape: every tenth long, every fifth middling.
    p.setPen(QPen(theme::colour(Role::TapeTick), 1));
    for (int t = 0; t * 6.4 < all.width(); ++t) {
        double x = all.left() + t * 6.4;
        if (stretch_rect(session_->workspace().stretch()).contains(QPointF(x, 20))) continue;
        double length = t % 10 == 0 ? 11 : t % 5 == 0 ? 8 : 4.5;
        p.drawLine(QPointF(x, all.bottom() - length), QPointF(x, all.bottom()));
    }
    p.restore();
    p.setPen(QPen(theme::colour(Role::BrassRule), 1));
    p.setBrush(Qt::NoBrush);
    p.drawPath(outline);
    for (int i = 0; i < stretches; ++i) {
        QRectF r = stretch_rect(Stretch(i));
        bool active = int(session_->workspace().stretch()) == i;
        p.setFont(theme::words(14.5, QFont::Bold));
        p.setPen(theme::colour(active ? Role::OnAccent : Role::TapeInk));
        p.drawText(r.adjusted(13, -3, 0, -3), Qt::AlignVCenter | Qt::AlignLeft, name_of(Stretch(i)));
        if (int open = open_at(Stretch(i))) {
            QString text = QString::number(open);
            QPointF c(r.right() - 24, r.center().y() - 2);
            p.setPen(Qt::NoPen);
            p.setBrush(theme::colour(active ? Role::OnAccent : Role::Ink));
            double w = std::max(19.0, QFontMetricsF(theme::numbers(11.5, true)).horizontalAdvance(text) + 10);
            p.drawRoundedRect(QRectF(c.x() - w / 2, c.y() - 9.5, w, 19), 9.5, 9.5);
            p.setPen(theme::colour(active ? Role::Accent : Role::OnAccent));
            p.setFont(theme::numbers(11.5, true));
            p.drawText(QRectF(c.x() - 20, c.y() - 9.5, 40, 19), Qt::AlignCenter, text);
        }
    }
    if (hasFocus()) {
        p.setPen(QPen(theme::colour(Role::Ink), 2));
        p.setBrush(Qt::NoBrush);
        p.drawRoundedRect(stretch_rect(session_->workspace().stretch()).adjusted(1, 1, -1, -1), 3, 3);
    }
}

void Tape::mousePressEvent(QMouseEvent* event) {
    int i = int((event->position().x() - 1) * stretches / std::max(1, width() - 2));
    if (i >= 0 && i < stretches) session_->workspace().set_stretch(Stretch(i));
}

void Tape::mouseMoveEvent(QMouseEvent* event) {
    int i = int((event->position().x() - 1) * stretches / std::max(1, width() - 2));
    if (i == hover_) return;
    hover_ = i;
    update();
}

void Tape::leaveEvent(QEvent*) {
    hover_ = -1;
    update();
}

void Tape::keyPressEvent(QKeyEvent* event) {
    int now = int(session_->workspace().stretch());
    if (event->key() == Qt::Key_Right && now + 1 < stretches)
        session_->workspace().set_stretch(Stretch(now + 1));
    else if (event->key() == Qt::Key_Left && now > 0)
        session_->workspace().set_stretch(Stretch(now - 1));
    else
        QWidget::keyPressEvent(event);
}

} // namespace lp
