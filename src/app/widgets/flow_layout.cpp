#include "app/widgets/flow_layout.h"
#include <QWidget>

namespace lp {

FlowLayout::FlowLayout(QWidget* parent, int gap_x, int gap_y) : QLayout(parent), gap_x_(gap_x), gap_y_(gap_y) {
    setContentsMargins(0, 0, 0, 0);
}

FlowLayout::~FlowLayout() {
    for (QLayoutItem* item : items_) delete item;
}

QLayoutItem* FlowLayout::itemAt(int index) const {
    return index >= 0 && size_t(index) < items_.size() ? items_[size_t(index)] : nullptr;
}

QLayoutItem* FlowLayout::takeAt(int index) {
    if (index < 0 || size_t(index) >= items_.size()) return nullptr;
    QLayoutItem* item = items_[size_t(index)];
    items_.erase(items_.begin() + index);
    return item;
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    arrange(rect, false);
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (QLayoutItem* item : items_) size = size.expandedTo(item->minimumSize());
    return size;
}

int FlowLayout::arrange(const QRect& rect, bool only_measure) const {
    int x = rect.x(), y = rect.y(), line = 0;
    for (QLayoutItem* item : items_) {
        if (item->widget() && item->widget()->isHidden()) continue;
        QSize size = item->sizeHint();
        // A comma stays with the word before it.
        bool sticks = item->widget() && item->widget()->property("sticks").toBool();
        int gap = sticks || x == rect.x() ? 0 : gap_x_;
        if (!sticks && x > rect.x() && x + gap + size.width() > rect.right() + 1) {
            x = rect.x();
            y += line + gap_y_;
            line = 0;
            gap = 0;
        }
        x += gap;
        if (!only_measure) item->setGeometry(QRect(x, y, size.width(), size.height()));
        x += size.width();
        line = std::max(line, size.height());
    }
    return y + line - rect.y();
}

} // namespace lp
