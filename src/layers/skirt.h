// Loops round everything in the first layer, so that the plastic flows before the part begins.
#pragma once
#include "bed/slicing.h"

namespace lp {

/// From the part or its border; common practice, no published source.
inline constexpr double skirt_apart_mm = 4;

/// Closed loops of lines `width_mm` wide, the innermost first: round the outer outlines of what lies on the bed, holes
/// left out. Things nearer to each other than twice the distance share a loop.
std::vector<std::vector<Vec2>> skirt_of(const Region& ground, int loops, double width_mm);

struct LayerLines;
struct LineOptions;
/// The same as lines of a layer of this height.
LayerLines skirt_lines(const Region& ground, int loops, double height_mm, const LineOptions& options);

} // namespace lp
