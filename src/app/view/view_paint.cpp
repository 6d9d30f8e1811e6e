// What the view paints over its picture: marks and what they count, the words of the beds, the hint, what is being
// done.
#include "app/theme/theme.h"
#include "app/units.h"
#include "app/view/view_overlay.h"
#include "app/view/view_widget.h"
#include <QPainter>

namespace lp {

using theme::Role;

void ViewWidget::paint_over(QPainter& p) {
    p.drawImage(0, 0, image_);
    p.setRenderHint(QPainter::Antialiasing);
    paint_bed_words(p);
    if (box_) {
        p.setPen(QPen(theme::colour(Role::Selected), 1.4, Qt::DashLine));
        p.setBrush(Qt::NoBrush);
        p.drawRect(*box_);
    }
    paint_marks(p);
    for (ViewOverlay* overlay : overlays_) overlay->paint(p);
    if (!hint_.isEmpty()) {
        p.setFont(theme::numbers(12));
        double w = p.fontMetrics().horizontalAdvance(hint_) + 20;
        QRectF box(10, height() - 36, w, 26);
        p.setPen(theme::colour(Role::Line));
        p.setBrush(theme::colour(Role::Card));
        p.drawRoundedRect(box, 4, 4);
        p.setPen(theme::colour(Role::SoftInk));
        p.drawText(box, Qt::AlignCenter, hint_);
    }
    if (!busy_.isEmpty()) {
        QRectF box = stop_button();
        p.setPen(theme::colour(Role::Line));
        p.setBrush(theme::colour(Role::Card));
        p.drawRoundedRect(box, 4, 4);
        p.fillRect(QRectF(box.left() + 1, box.bottom() - 4, (box.width() - 2) * std::clamp(busy_share_, 0.02, 1.0), 3),
                   theme::colour(Role::Accent));
        p.setPen(theme::colour(Role::Ink));
        p.setFont(theme::words(12.5));
        p.drawText(box.adjusted(12, 0, -60, -2), Qt::AlignVCenter | Qt::AlignLeft,
                   p.fontMetrics().elidedText(busy_ + " …", Qt::ElideRight, int(box.width()) - 76));
        p.setFont(theme::words(12.5, QFont::Bold));
        p.setPen(theme::colour(Role::Accent));
        p.drawText(box.adjusted(0, 0, -12, -2), Qt::AlignVCenter | Qt::AlignRight, "Stop");
    }
    if (hasFocus()) {
        p.setBrush(Qt::NoBrush);
        p.setPen(QPen(theme::colour(Role::Accent), 2));
        p.drawRect(rect().adjusted(1, 1, -1, -1));
    }
}

QRectF ViewWidget::stop_button() const {
    return {width() / 2.0 - 150, 58, 300, 34}; // below the buttons over the view
}

void ViewWidget::paint_bed_words(QPainter& p) {
    if (camera_.pitch_deg <= 3) return;
    double hx = scene_.bed_mm.x() / 2, hy = scene_.bed_mm.y() / 2, z = scene_.bed_z;
    Vec3 c(scene_.bed_centre.x(), scene_.bed_centre.y(), 0);
    p.setFont(theme::numbers(11));
    p.setPen(theme::colour(Role::MatInk));
    std::vector<QRectF> bodies; // as they lie on the screen
    for (size_t i = 0; i < scene_.bodies.size(); ++i) {
        QPolygonF corners;
        for (int k = 0; k < 8 && !boxes_[i].isEmpty(); ++k)
            corners << project(scene_.bodies[i].place * boxes_[i].corner(Box3::CornerType(k)));
        bodies.push_back(corners.boundingRect());
    }
    // Where no body hides or crosses it, from the middle of the edge outward.
    auto word = [&](const Vec3& middle, const Vec3& along, const QString& text) {
        auto place = [&](double share) {
            QPointF s = project(c + middle + share * along);
            const double wide = p.fontMetrics().horizontalAdvance(text) + 12;
            return QRectF(s.x() - wide / 2, s.y() - 9, wide, 18);
        };
        for (double share : {0.0, -0.2, 0.2, -0.4, 0.4, -0.6, 0.6, -0.8, 0.8}) {
            QRectF r = place(share);
            bool hidden = std::any_of(bodies.begin(), bodies.end(), [&](const QRectF& b) { return b.intersects(r); });
            if (hidden || !rect().contains(r.toRect())) continue;
            return p.drawText(r, Qt::AlignCenter, text);
        }
    };
    const QString front = "front · " + as_shown(QString::number(scene_.bed_mm.x()) + " mm");
    const Vec3 first = c;
    for (size_t bed = 0; bed < scene_.beds; ++bed) { // all beds are of one size: it stands on the first
        c = first + middle_of_bed(bed, scene_.bed_mm);
        const QString which = QString("bed %1").arg(bed + 1);
        word({0, -hy + 5, z}, {hx, 0, 0}, scene_.beds == 1 ? front : bed == 0 ? which + " · " + front : which);
        if (scene_.beds == 1) word({hx - 8, 0, z}, {0, hy, 0}, as_shown(QString::number(scene_.bed_mm.y()) + " mm"));
    }
}

/// What a finding counts, over the parts wherever it lies: the one looked at heavier than the others.
void ViewWidget::paint_outlines(QPainter& p, const ViewMark& mark) {
    p.setBrush(Qt::NoBrush);
    for (int under : {1, 0}) // a light ground first, so that they are seen on every colour
        for (size_t i = 0; i < mark.outlines.size(); ++i) {
            const auto& corners = mark.outlines[i];
            const bool looked_at = i == mark.outlined;
            const double wide = (looked_at ? 2.6 : 1.2) + 2.4 * under;
            p.setPen(QPen(theme::colour(under ? Role::Card : Role::Wrong), wide, Qt::SolidLine, Qt::RoundCap));
            const QPolygonF drawn{project(corners[0]), project(corners[1]), project(corners[2])};
            const double across = drawn.boundingRect().width() + drawn.boundingRect().height();
            if (across < 4)
                p.drawEllipse(drawn[0], looked_at ? 6.0 : 3.0, looked_at ? 6.0 : 3.0);
            else
                p.drawPolygon(drawn);
        }
}

void ViewWidget::paint_marks(QPainter& p) {
    double right = width(); // of the room that is free for words
    for (const ViewOverlay* overlay : overlays_) right = std::min(right, width() - overlay->room_at_right());
    for (size_t i = marks_.size(); i-- > 0;) { // the first is the one looked at: on top
        const ViewMark& mark = marks_[i];
        QPointF at = project(mark.at);
        if (mark.to) { // a measured way: a line between its ends, the number at its middle
            QPointF to = project(*mark.to), middle = (at + to) / 2;
            p.setPen(QPen(theme::colour(Role::Card), 4));
            p.drawLine(at, to);
            p.setPen(QPen(theme::colour(Role::Brass), 1.6));
            p.drawLine(at, to);
            p.setBrush(theme::colour(Role::Brass));
            p.drawEllipse(at, 2.6, 2.6);
            p.drawEllipse(to, 2.6, 2.6);
            p.setFont(theme::numbers(12.5));
            QRectF box(middle + QPointF(8, -12), QSizeF(p.fontMetrics().horizontalAdvance(mark.title) + 14, 23));
            p.setPen(theme::colour(Role::Brass));
            p.setBrush(theme::colour(Role::Field));
            p.drawRoundedRect(box, 4, 4);
            p.setPen(theme::colour(Role::Ink));
            p.drawText(box, Qt::AlignCenter, mark.title);
            continue;
        }
        if (mark.title.isEmpty()) { // a ring alone: a contact that is not the one looked at
            const QRectF disc(at.x() - ring_px, at.y() - ring_px, 2 * ring_px, 2 * ring_px);
            p.setPen(QPen(theme::colour(Role::Ink), 1));
            p.setBrush(theme::colour(Role::Card));
            p.drawEllipse(disc);
            theme::draw_mark(p, disc.adjusted(4, 4, -4, -4), mark.mark.value_or(FitState::Unset));
            continue;
        }
        paint_outlines(p, mark);
        QFont title_font = theme::words(12.5, QFont::Bold), text_font = theme::numbers(12);
        double w = std::max(QFontMetricsF(title_font).horizontalAdvance(mark.title),
                            QFontMetricsF(text_font).horizontalAdvance(mark.text)) +
                   24 + (mark.mark ? 26 : 0);
        double h = mark.text.isEmpty() ? 28 : 46;
        // Beside the place, kept inside the picture.
        QPointF corner(std::clamp(at.x() + 34, 8.0, std::max(8.0, right - w - 8)),
                       std::clamp(at.y() + 26, 52.0, std::max(52.0, height() - h - 8)));
        QRectF box(corner, QSizeF(w, h));
        p.setPen(QPen(theme::colour(Role::Ink), 1.2));
        p.drawLine(at, QPointF(std::clamp(at.x(), box.left() + 8, box.right() - 8),
                               at.y() < box.top() ? box.top() : box.bottom()));
        p.setBrush(theme::colour(Role::Ink));
        p.drawEllipse(at, 2.6, 2.6);
        p.setBrush(theme::colour(Role::Field));
        p.drawRoundedRect(box, 4, 4);
        double x = box.left() + 10;
        QRectF glyph(x, box.top() + (h - 20) / 2, 20, 20);
        if (mark.mark) {
            theme::draw_mark(p, glyph, *mark.mark);
            x += 28;
        }
        p.setPen(theme::colour(Role::Ink));
        p.setFont(title_font);
        p.drawText(QPointF(x, box.top() + 19), mark.title);
        p.setFont(text_font);
        p.setPen(theme::colour(Role::SoftInk));
        if (!mark.text.isEmpty()) p.drawText(QPointF(x, box.top() + 36), mark.text);
    }
}

} // namespace lp
