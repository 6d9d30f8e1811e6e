#include "steps/field_value.h"
#include <mutex>

namespace lp {

struct FieldValue::Cell {
    std::once_flag text_made, drawing_read, geometry_read;
    std::string text;
    std::optional<Expected<Drawing>> drawing;
    std::vector<GeometryItem> geometry;
};

FieldValue::FieldValue(std::string text) : cell_(std::make_shared<Cell>()) {
    std::call_once(cell_->text_made, [&] { cell_->text = std::move(text); });
}

FieldValue::FieldValue(Drawing drawing) : cell_(std::make_shared<Cell>()) {
    std::call_once(cell_->drawing_read, [&] { cell_->drawing = std::move(drawing); });
}

const std::string& FieldValue::text() const {
    std::call_once(cell_->text_made, [this] { cell_->text = drawing_text(**cell_->drawing); });
    return cell_->text;
}

const Expected<Drawing>& FieldValue::drawing() const {
    std::call_once(cell_->drawing_read, [this] { cell_->drawing = drawing_from_text(cell_->text); });
    return *cell_->drawing;
}

const std::vector<GeometryItem>& FieldValue::geometry() const {
    std::call_once(cell_->geometry_read, [this] { cell_->geometry = geometry_items(text()); });
    return cell_->geometry;
}

} // namespace lp
