#include "app/view/look_net.h"
#include "app/theme/theme.h"
#include "app/view/view_widget.h"
#include <QHelpEvent>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QToolTip>

namespace lp {

using theme::Role;

namespace {
constexpr int tile = 21, edge = 6;
}

const std::array<LookNet::Side, 6>& LookNet::sides() {
    static const std::array<Side, 6> net{{{"front", "F", 1, 1, -Vec3::UnitY()},
                                          {"right", "R", 2, 1, Vec3::UnitX()},
                                          {"back", "B", 3, 1, Vec3::UnitY()},
                                          {"left", "L", 0, 1, -Vec3::UnitX()},
                                          {"above", "A", 1, 0, Vec3::UnitZ()},
                                          {"below", "U", 1, 2, -Vec3::UnitZ()}}};
    return net;
}

LookNet::LookNet(ViewWidget* view) : QWidget(view), view_(view) {
    setFixedSize(4 * tile + 2 * edge, 3 * tile + 2 * edge);
    setFocusPolicy(Qt::TabFocus);
    setMouseTracking(true);
    setCursor(Qt::PointingHandCursor);
    setAccessibleName("Look along");
    setAccessibleDescription("Six sides; arrow keys choose one, Enter looks at it");
    view->installEventFilter(this);
    connect(view, &ViewWidget::drawn, this, [this] {
        if (std::exchange(shown_, facing()) != facing()) update();
    });
    place();
}

void LookNet::place() {
    move(view_->width() - width() - 8, 8);
    setVisible(view_->width() > 520); // a narrow view keeps its room
}

bool LookNet::eventFilter(QObject* object, QEvent* event) {
    if (object == view_ && event->type() == QEvent::Resize) place();
    return false;
}

QRect LookNet::rect_of(size_t side) const {
    const Side& s = sides()[side];
    return QRect(edge + s.column * tile, edge + s.row * tile, tile, tile).adjusted(1, 1, -1, -1);
}

size_t LookNet::facing() const {
    const Vec3 forward = view_->camera().forward();
    size_t best = 0;
    for (size_t i = 1; i < sides().size(); ++i)
        if (sides()[i].outward.dot(forward) < sides()[best].outward.dot(forward)) best = i;
    return best;
}

void LookNet::look_at(size_t side) {
    chosen_ = side;
    view_->camera().look_along(-sides()[side].outward);
    view_->refresh();
    update();
}

std::optional<size_t> LookNet::at(const QPoint& place) const {
    for (size_t i = 0; i < sides().size(); ++i)
        if (rect_of(i).contains(place)) return i;
    return std::nullopt;
}

void LookNet::paintEvent(QPaintEvent*) {
    QPainter p(this);
    p.setRenderHint(QPainter::Antialiasing);
    const size_t now = facing();
    p.setFont(theme::words(11, QFont::Bold));
    for (size_t i = 0; i < sides().size(); ++i) {
        const QRectF r = QRectF(rect_of(i)).adjusted(0.5, 0.5, -0.5, -0.5);
        const bool on = i == now, mine = hasFocus() && i == chosen_;
        p.setPen(QPen(theme::colour(mine || hover_ == i ? Role::Accent : Role::Line), mine ? 2 : 1));
        p.setBrush(theme::colour(on ? Role::Brass : hover_ == i ? Role::Wash : Role::Card));
        p.drawRoundedRect(r, 2, 2);
        p.setPen(theme::colour(on ? Role::Card : Role::SoftInk));
        p.drawText(r, Qt::AlignCenter, sides()[i].letter);
    }
}

void LookNet::mousePressEvent(QMouseEvent* event) {
    if (auto side = at(event->position().toPoint())) return look_at(*side);
    event->ignore(); // beside the net the view itself is meant
}

void LookNet::mouseMoveEvent(QMouseEvent* event) {
    hover_ = at(event->position().toPoint());
    update();
}

void LookNet::leaveEvent(QEvent*) {
    hover_.reset();
    update();
}

void LookNet::keyPressEvent(QKeyEvent* event) {
    auto go = [&](int dx, int dy) {
        const Side& from = sides()[chosen_];
        for (size_t i = 0; i < sides().size(); ++i)
            if (sides()[i].column == from.column + dx && sides()[i].row == from.row + dy) chosen_ = i;
        update();
    };
    switch (event->key()) {
    case Qt::Key_Left:
        return go(-1, 0);
    case Qt::Key_Right:
        return go(1, 0);
    case Qt::Key_Up:
        return go(0, -1);
    case Qt::Key_Down:
        return go(0, 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
    case Qt::Key_Space:
        return look_at(chosen_);
    default:
        QWidget::keyPressEvent(event);
    }
}

bool LookNet::event(QEvent* event) {
    if (event->type() != QEvent::ToolTip) return QWidget::event(event);
    auto* help = static_cast<QHelpEvent*>(event);
    if (auto side = at(help->pos()))
        QToolTip::showText(help->globalPos(),
                           QString("Look from the %1")
                               .arg(sides()[*side].name)
                               .replace("the above", "above")
                               .replace("the below", "below"),
                           this);
    return true;
}

} // namespace lp
