#include "app/theme/marks.h"
#include "app/theme/theme.h"
#include <QFile>
#include <QIcon>
#include <QPainterPath>
#include <QSvgRenderer>
#include <map>
#include <memory>

namespace lp::theme {

void draw_fit_ring(QPainter& p, const QRectF& square, FitState state) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    double s = std::min(square.width(), square.height());
    QPointF c = square.center();
    double outer = s * 0.42;
    QColor ink = colour(Role::Ink);
    QPen pen(ink, std::max(1.3, s * 0.075));
    auto disc = [&](QPointF at, double r, const QColor& fill) {
        p.setPen(Qt::NoPen);
        p.setBrush(fill);
        p.drawEllipse(at, r, r);
    };
    auto hole = [&] {
        p.setPen(pen);
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(c, outer, outer);
    };
    switch (state) {
    case FitState::Right:
        hole();
        disc(c, outer * 0.62, ink);
        break;
    case FitState::Tight:
        hole();
        disc(c + QPointF(outer * 0.26, 0), outer * 0.70, colour(Role::Hanging));
        break;
    case FitState::Slack:
        hole();
        disc(c, outer * 0.30, colour(Role::Slack));
        break;
    case FitState::Touching:
        disc(c, outer + pen.widthF() / 2, colour(Role::Wrong));
        break;
    case FitState::Overlapping:
        disc(c, outer + pen.widthF() / 2, colour(Role::Wrong));
        p.setPen(QPen(colour(Role::Card), pen.widthF()));
        p.drawLine(c + QPointF(-outer, outer) * 0.5, c + QPointF(outer, -outer) * 0.5);
        p.drawLine(c + QPointF(-outer, -outer) * 0.5, c + QPointF(outer, outer) * 0.5);
        break;
    case FitState::Unset: {
        QPen dashed(colour(Role::SoftInk), pen.widthF());
        dashed.setDashPattern({2, 1.6});
        p.setPen(dashed);
        p.setBrush(Qt::NoBrush);
        p.drawEllipse(c, outer, outer);
        break;
    }
    }
    p.restore();
}

void draw_outcome(QPainter& p, const QRectF& square, Outcome outcome) {
    if (outcome == Outcome::Failed) return draw_finding(p, square, FindingMark::Crossing);
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(square.topLeft());
    double u = std::min(square.width(), square.height()) / 20;
    p.scale(u, u);
    p.setPen(QPen(colour(outcome == Outcome::Measure ? Role::Brass : Role::Ink), 1.8, Qt::SolidLine, Qt::RoundCap,
                  Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    if (outcome == Outcome::Measure) { // a way between two ends
        p.drawLine(QPointF(4, 10), QPointF(16, 10));
        p.drawLine(QPointF(4, 5.5), QPointF(4, 14.5));
        p.drawLine(QPointF(16, 5.5), QPointF(16, 14.5));
    } else { // a closed ring
        p.drawEllipse(QPointF(10, 10), 6.5, 6.5);
        p.drawPolyline(QPolygonF({{7, 10.2}, {9.3, 12.6}, {13.2, 7.6}}));
    }
    p.restore();
}

void draw_finding(QPainter& p, const QRectF& square, FindingMark mark) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(square.topLeft());
    double u = std::min(square.width(), square.height()) / 20;
    p.scale(u, u);
    auto pen = [&](Role role, double width = 1.8) {
        p.setPen(QPen(colour(role), width, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    };
    p.setBrush(Qt::NoBrush);
    switch (mark) {
    case FindingMark::Lintel: // with drips
        p.fillRect(QRectF(3, 4, 14, 5), colour(Role::Hanging));
        pen(Role::Hanging);
        for (double x : {5.0, 10.0, 15.0}) p.drawLine(QPointF(x, 12), QPointF(x, 15.5));
        break;
    case FindingMark::Drop: // a loose drop on a thread
        pen(Role::Wrong);
        p.drawEllipse(QPointF(10, 12.5), 4.3, 4.3);
        p.drawLine(QPointF(10, 3), QPointF(10, 8));
        break;
    case FindingMark::Broken: // an outline with a piece missing
        pen(Role::Wrong);
        p.drawArc(QRectF(3.5, 3.5, 13, 13), 30 * 16, 290 * 16);
        break;
    case FindingMark::Turned: // a page turned over
        pen(Role::Wrong);
        p.drawPolygon(QPolygonF({{3, 15}, {10, 4}, {17, 15}}));
        p.drawLine(QPointF(7, 11), QPointF(13, 11));
        break;
    case FindingMark::Sheets: // two of them
        pen(Role::Wrong);
        p.drawRect(QRectF(3, 6, 10, 10));
        p.drawRect(QRectF(7, 3, 10, 10));
        break;
    case FindingMark::Leaning: // a leaning tower
        pen(Role::Wrong);
        p.drawPolygon(QPolygonF({{7, 16}, {11, 16}, {16, 5}, {12, 3}}));
        p.drawLine(QPointF(3, 17), QPointF(17, 17));
        break;
    case FindingMark::PastEdge: // an arrow past the edge
        pen(Role::Wrong);
        p.drawRect(QRectF(3, 5, 9, 10));
        p.drawLine(QPointF(8, 10), QPointF(18, 10));
        p.drawLine(QPointF(18, 10), QPointF(15, 7));
        p.drawLine(QPointF(18, 10), QPointF(15, 13));
        break;
    case FindingMark::Crossing:
        pen(Role::Wrong);
        p.drawLine(QPointF(4, 6), QPointF(16, 14));
        p.drawLine(QPointF(4, 14), QPointF(16, 6));
        break;
    }
    p.restore();
}

void draw_mark(QPainter& p, const QRectF& square, const Mark& mark) {
    if (const FitState* ring = std::get_if<FitState>(&mark)) draw_fit_ring(p, square, *ring);
    if (const FindingMark* finding = std::get_if<FindingMark>(&mark)) draw_finding(p, square, *finding);
    if (const Outcome* outcome = std::get_if<Outcome>(&mark)) draw_outcome(p, square, *outcome);
}

void draw_icon(QPainter& p, const QRectF& square, const QString& name, const QColor& ink) {
    p.save();
    p.setRenderHint(QPainter::Antialiasing);
    p.translate(square.topLeft());
    double u = std::min(square.width(), square.height()) / 20;
    p.scale(u, u);
    p.setPen(QPen(ink, 1.6, Qt::SolidLine, Qt::RoundCap, Qt::RoundJoin));
    p.setBrush(Qt::NoBrush);
    if (name == "eye" || name == "eye-off") {
        QPainterPath lid(QPointF(2, 10));
        lid.quadTo(10, 2.5, 18, 10);
        lid.quadTo(10, 17.5, 2, 10);
        p.drawPath(lid);
        if (name == "eye")
            p.drawEllipse(QPointF(10, 10), 2.6, 2.6);
        else
            p.drawLine(QPointF(4, 16), QPointF(16, 4));
    } else if (name == "plus") {
        p.drawLine(QPointF(10, 4), QPointF(10, 16));
        p.drawLine(QPointF(4, 10), QPointF(16, 10));
    } else if (name == "close") {
        p.drawLine(QPointF(5, 5), QPointF(15, 15));
        p.drawLine(QPointF(5, 15), QPointF(15, 5));
    } else if (name == "more") {
        p.setBrush(ink);
        for (double x : {4.5, 10.0, 15.5}) p.drawEllipse(QPointF(x, 10), 0.9, 0.9);
    }
    p.restore();
}

void draw_act(QPainter& p, const QRectF& square, const QString& id, const QColor& ink) {
    // One reading of the file for each ink: the drawings take their colour from it.
    static std::map<QRgb, std::unique_ptr<QSvgRenderer>> inks;
    auto& drawings = inks[ink.rgb()];
    if (!drawings) {
        QFile file(":/loose-peg/icons/acts.svg");
        QByteArray text = file.open(QIODevice::ReadOnly) ? file.readAll() : QByteArray();
        drawings = std::make_unique<QSvgRenderer>(text.replace("currentColor", ink.name().toUtf8()));
    }
    if (drawings->elementExists(id)) return drawings->render(&p, id, square);
    p.setBrush(ink);
    p.setPen(Qt::NoPen);
    p.drawEllipse(square.center(), 2, 2);
}

QIcon line_icon(const QString& name) {
    QPixmap pixmap(40, 40);
    pixmap.fill(Qt::transparent);
    QPainter painter(&pixmap);
    draw_icon(painter, QRectF(0, 0, 40, 40), name, colour(Role::Ink));
    painter.end();
    return QIcon(pixmap);
}

} // namespace lp::theme
