// What lines are planned with beside bed/slicing.h: places of regions in mm, what supports carry.
#pragma once
#include "bed/slicing.h"
#include <cmath>

namespace lp {

inline Vec2 place_of(const ClipperLib::IntPoint& p) {
    return {double(p.X) / clipper_grid, double(p.Y) / clipper_grid};
}
inline ClipperLib::IntPoint grid_place(const Vec2& p) {
    return {std::llround(p.x() * clipper_grid), std::llround(p.y() * clipper_grid)};
}

/// On its border counts as inside. Loops as regions have them: clean and nested.
bool holds(const Region& region, const ClipperLib::IntPoint& p);
/// From the nearest border, mm; inside or outside alike.
double distance_to_border(const Region& region, const Vec2& p);
/// Bounds, empty for an empty region, mm.
Eigen::AlignedBox2d bounds_of(const Region& region);
/// What the nearest support layers below a layer carry of it across their contact gap: a bridge of half the usual
/// spacing spans to a tip.
Region carried_by_supports(const std::vector<Region>& supports, size_t layer, const LayerHeights& heights,
                           double gap_mm);
/// Drops places nearer than this to the line of their neighbours; loops that cross themselves after it are joined.
void clean_region(Region& region, double by_mm);

} // namespace lp
