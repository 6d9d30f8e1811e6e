// Three ways of turning, moving and zooming the view with a mouse or a touchpad; which one holds stands in the
// settings.
#pragma once
#include "app/settings.h"
#include <QString>
#include <Qt>
#include <optional>
#include <vector>

namespace lp {

/// What dragging over the view does.
enum class ViewDrag { Turn, Move, Box };
/// Nothing: this button does not drag in this habit.
std::optional<ViewDrag> drag_of(Settings::Pointer habit, Qt::MouseButton button, Qt::KeyboardModifiers keys);
/// Whether the wheel, or two fingers, move the view instead of zooming it.
bool wheel_moves(Settings::Pointer habit, Qt::KeyboardModifiers keys);

/// A habit in words, for the settings and the list of keys.
struct PointerHabit {
    Settings::Pointer habit;
    QString name, turn, move, zoom, box;
};
const std::vector<PointerHabit>& pointer_habits();

} // namespace lp
