#include "app/view/pointer_habits.h"

namespace lp {

std::optional<ViewDrag> drag_of(Settings::Pointer habit, Qt::MouseButton button, Qt::KeyboardModifiers keys) {
    const bool shift = keys & Qt::ShiftModifier, ctrl = keys & Qt::ControlModifier;
    if (button == Qt::LeftButton && ctrl) return ViewDrag::Box;
    switch (habit) {
    case Settings::Pointer::Bench:
    case Settings::Pointer::Fingers:
        if (button == Qt::LeftButton) return shift ? ViewDrag::Move : ViewDrag::Turn;
        return ViewDrag::Move;
    case Settings::Pointer::Wheel:
        if (button == Qt::LeftButton) return ViewDrag::Box;
        if (button == Qt::RightButton) return ViewDrag::Move;
        return shift ? ViewDrag::Move : ViewDrag::Turn;
    }
    return std::nullopt;
}

bool wheel_moves(Settings::Pointer habit, Qt::KeyboardModifiers keys) {
    return habit == Settings::Pointer::Fingers && !(keys & Qt::ControlModifier);
}

const std::vector<PointerHabit>& pointer_habits() {
    static const std::vector<PointerHabit> habits{
        {Settings::Pointer::Bench, "Left button turns", "drag with the left button",
         "drag with the right or the middle button, or with Shift", "wheel", "Ctrl and drag"},
        {Settings::Pointer::Wheel, "Wheel turns", "drag with the wheel pressed",
         "drag with the right button, or Shift and the wheel pressed", "wheel", "drag with the left button"},
        {Settings::Pointer::Fingers, "Touchpad", "drag", "two fingers", "pinch, or Ctrl and two fingers",
         "Ctrl and drag"}};
    return habits;
}

} // namespace lp
