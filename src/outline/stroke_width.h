// How wide the strokes of letters and emblems are.
#pragma once
#include "outline/arrangement.h"
#include <optional>

namespace lp {

/// The width of the finest strokes of a region, mm: the largest circle inside that touches the outline at a place and
/// the outline facing it is measured all along, and the finest twentieth of what faces something is left out as tips
/// and serifs. Nothing where no outline faces another (a disc has no strokes: it is as wide as itself).
/// The medial axis by shrinking balls after J. Ma, S. W. Bae and S. Choi, "3D medial axis point approximation using
/// nearest neighbors and the normal field", The Visual Computer 28 (2012), here in the plane and over all places.
std::optional<double> finest_stroke(const FlatRegion& region);

} // namespace lp
