#include "app/widgets/flow_layout.h"
#include <QWidget>

namespace lp {

FlowLayout::FlowLayout(QWidget* parent, int gap_x, int gap_y) : QLayout(parent), gap_x_(gap_x), gap_y_(gap_y) {
    setContentsMargins(0, 0, 0, 0);
}

FlowLayout::~FlowLayout() {
    for (QLayoutItem* item : items_) delete item;
}

void FlowLayout::addItem(QLayoutItem* item) {
    items_.push_back(item);
    sticks_.push_back(item->widget() && item->widget()->property("sticks").toBool());
}

QLayoutItem* FlowLayout::itemAt(int index) const {
    return index >= 0 && size_t(index) < items_.size() ? items_[size_t(index)] : nullptr;
}

QLayoutItem* FlowLayout::takeAt(int index) {
    if (index < 0 || size_t(index) >= items_.size()) return nullptr;
    QLayoutItem* item = items_[size_t(index)];
    items_.erase(items_.begin() + index);
    sticks_.erase(sticks_.begin() + index);
    return item;
}

int FlowLayout::heightForWidth(int width) const {
    auto known = heights_.find(width);
    return known != heights_.end() ? known->second
                                   : heights_.emplace(width, arrange(QRect(0, 0, width, 0), true)).first->second;
}

void FlowLayout::invalidate() {
    heights_.clear();
    laid_out_ = {};
    QLayout::invalidate();
}

void FlowLayout::setGeometry(const QRect& rect) {
    QLayout::setGeometry(rect);
    const QRect same_width(rect.topLeft(), QSize(rect.width(), 0)); // words do not mind the height
    if (same_width == laid_out_) return;
    arrange(rect, false);
    laid_out_ = same_width;
}

QSize FlowLayout::minimumSize() const {
    QSize size;
    for (QLayoutItem* item : items_) size = size.expandedTo(item->minimumSize());
    return size;
}

int FlowLayout::arrange(const QRect& rect, bool only_measure) const {
    int x = rect.x(), y = rect.y(), line = 0;
    for (size_t i = 0; i < items_.size(); ++i) {
        QLayoutItem* item = items_[i];
        if (item->widget() && item->widget()->isHidden()) continue;
        QSize size = item->sizeHint();
        const bool sticks = sticks_[i];
        int gap = sticks || x == rect.x() ? 0 : gap_x_;
        int with_what_sticks = size.width();
        for (size_t k = i + 1; k < items_.size() && sticks_[k]; ++k)
            if (!items_[k]->widget() || !items_[k]->widget()->isHidden())
                with_what_sticks += items_[k]->sizeHint().width();
        if (!sticks && x > rect.x() && x + gap + with_what_sticks > rect.right() + 1) {
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
