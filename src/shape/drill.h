// Straight holes made without a boolean: cylinders and prisms that enter and leave a body through flat faces square to
// them. The kernel's boolean takes a third of a second for a hundred of them, this a few milliseconds.
#pragma once
#include "base/task.h"
#include "shape/body.h"

namespace lp {

/// The body less the tools, faces named as combine_exact names them. Nothing when it is not such a case: a tool that is
/// no cylinder or prism along one axis with the others, comes near the border of a face it goes through, near another
/// face or another tool, ends within 0.01 mm of a face but not on it, or touches no face; or when the result's volume
/// is not the formula's; nor when there are too many for it to be quick, or on request. A boolean is to be used then.
/// Proportional to tools times faces and borders.
std::optional<Body> drill_directly(const Body& body, const std::vector<Body>& tools, const Task& task = {});

} // namespace lp
