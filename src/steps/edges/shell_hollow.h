// A shell as the body less a hollow of its own: for bodies whose rounds run into the faces left open.
#pragma once
#include "steps/find_edges.h"

namespace lp {

struct ShellWish {
    size_t body = 0;           ///< of the bodies before
    std::vector<size_t> open;  ///< faces
    std::vector<size_t> other; ///< faces with a wall of their own
    double wall_mm = 0, other_mm = 0;
    bool inward = true;
};

/// Whether the kernel's own shell cannot be asked: a round runs into an open face, or has no inside under the wall.
Expected<bool> needs_hollow(const Body& body, const ShellWish& wish);

/// The hollow is the part before this step remade smaller by the wall, where its steps can be (rounds come out right
/// there); else the body offset by the kernel. Every one is measured against the body before it is believed: closed,
/// the wall as thick as asked for everywhere. Then each open face is cut through to it (shape/opening_tool.h).
Expected<Body> shell_by_hollow(const std::vector<StepBody>& before, const StepContext& context, const ShellWish& wish);

} // namespace lp
