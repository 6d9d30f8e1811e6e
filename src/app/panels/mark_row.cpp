#include "app/panels/mark_row.h"
#include "app/session.h"
#include "app/theme/theme.h"
#include "app/units.h"
#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QPainter>

namespace lp {

using theme::Role;

MarkRow::MarkRow(const QString& title, const QString& below, QWidget* parent)
    : QWidget(parent), title_(title), below_(as_shown(below)) {
    setFixedHeight(44);
    setFocusPolicy(Qt::StrongFocus);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName(title);
    setAccessibleDescription(below_);
    setToolTip(below_);
}

void MarkRow::set_active(bool on) {
    active_ = on;
    update();
}

void offer_help(Session* session, const QString& page, const QPoint& place) {
    auto* menu = new QMenu;
    menu->setAttribute(Qt::WA_DeleteOnClose);
    QObject::connect(menu->addAction("What is this?"), &QAction::triggered, session,
                     [session, page] { emit session->help_wanted(page); });
    menu->popup(place);
}

void MarkRow::mousePressEvent(QMouseEvent* event) {
    setFocus();
    // The right button asks only: choosing makes the column anew, and the menu would go with the row.
    if (event->button() == Qt::LeftButton) emit chosen();
}

void MarkRow::contextMenuEvent(QContextMenuEvent* event) {
    if (page_.isEmpty()) return event->ignore();
    const bool by_key = event->reason() == QContextMenuEvent::Keyboard;
    offer_help(session_of_help_, page_, by_key ? mapToGlobal(QPoint(24, height())) : event->globalPos());
}

void MarkRow::keyPressEvent(QKeyEvent* event) {
    if (event->key() == Qt::Key_Return || event->key() == Qt::Key_Space)
        emit chosen();
    else if (event->key() == Qt::Key_Down)
        focusNextChild();
    else if (event->key() == Qt::Key_Up)
        focusPreviousChild();
    else
        QWidget::keyPressEvent(event);
}

void MarkRow::paint_ground(QPainter& p) {
    if (active_) {
        p.fillRect(rect(), theme::colour(Role::Wash));
        p.fillRect(QRect(0, 0, 3, height()), theme::colour(Role::Accent));
    } else if (hover_) {
        p.fillRect(rect(), theme::colour(Role::Paper));
    }
    if (!hasFocus()) return;
    p.setPen(QPen(theme::colour(Role::Accent), 1.4));
    p.setBrush(Qt::NoBrush);
    p.drawRect(QRectF(rect()).adjusted(1, 1, -1, -1));
}

void MarkRow::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    paint_ground(p);
    QRectF glyph(theme::margin, 12, 20, 20);
    theme::draw_mark(p, glyph, mark_);
    p.setPen(theme::colour(Role::Ink));
    p.setFont(theme::words(13.5, QFont::DemiBold));
    p.drawText(QRectF(44, 4, width() - 52, 19), Qt::AlignVCenter,
               p.fontMetrics().elidedText(title_, Qt::ElideRight, width() - 56));
    p.setPen(theme::colour(Role::SoftInk));
    p.setFont(theme::numbers(12));
    p.drawText(QRectF(44, 22, width() - 52, 18), Qt::AlignVCenter,
               p.fontMetrics().elidedText(below_, Qt::ElideRight, width() - 56));
}

} // namespace lp
