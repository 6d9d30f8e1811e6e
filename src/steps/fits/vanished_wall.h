// Walls that are thinner than the gap of what is let into a body.
#pragma once
#include "base/task.h"
#include "shape/body.h"

namespace lp {

/// What a person should know when cutting `host` by `envelope` (that of `tool`, `gap_mm` wide where it is widest) takes
/// a wall away between the tool and a face of the host: which wall, how thick it was. Empty when all walls stay, and
/// for faces the tool itself passes through. All in one frame.
std::string vanished_wall(const Body& host, const Body& tool, const Body& envelope, double gap_mm, const Task& task);

} // namespace lp
