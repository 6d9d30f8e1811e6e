#include "app/view/view_overlay.h"
#include "app/theme/theme.h"
#include <QPainter>

namespace lp {

void paint_number_beside(QPainter& p, const QPointF& place, const QString& text, double view_width, bool in_hand) {
    using theme::Role;
    p.setFont(theme::numbers(13));
    QRectF box(place + QPointF(17, -34), QSizeF(p.fontMetrics().horizontalAdvance(text) + 20, 26));
    box.moveLeft(std::clamp(box.left(), 8.0, std::max(8.0, view_width - box.width() - 8)));
    box.moveTop(std::max(box.top(), 8.0));
    p.setPen(theme::colour(in_hand ? Role::Accent : Role::Line));
    p.setBrush(theme::colour(Role::Field));
    p.drawRoundedRect(box, 4, 4);
    p.setPen(theme::colour(Role::Ink));
    p.drawText(box, Qt::AlignCenter, text);
}

} // namespace lp
