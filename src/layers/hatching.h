// Parallel lines, waves and bridges over a region.
#pragma once
#include "bed/slicing.h"

namespace lp {

using Polyline = std::vector<Vec2>;

enum class RowSpacing {
    OnAGrid, ///< at multiples of the spacing, the same in every layer
    Fitted,  ///< on both extremes of the region, spaced evenly between
};
struct HatchOptions {
    double angle_rad = 0, spacing_mm = 1;
    bool joined = false; ///< neighbours are joined to zigzags
    RowSpacing spacing = RowSpacing::OnAGrid;
};
/// Rows of lines that end at the region's border.
std::vector<Polyline> hatch(const Region& region, const HatchOptions& options);

/// The section at height z of sin x cos y + sin y cos z + sin z cos x = 0, cut by the region. The surface has 3.09 /
/// cell of area a volume, and a plane meets pi / 4 of that as length an area: cell = 2.43 x line width / density.
std::vector<Polyline> gyroid(const Region& region, double cell_mm, double z_mm);

struct BridgeDirection {
    double angle_rad = 0, longest_mm = 0;
    double loose_share = 1; ///< of the lines' length, not held at both ends
};
/// The best direction of lines over one piece of region that `below` does not carry: least loose, then least longest.
/// 36 directions and those of the piece's own long edges.
BridgeDirection best_bridge(const Region& piece, const Region& below, double spacing_mm);

} // namespace lp
