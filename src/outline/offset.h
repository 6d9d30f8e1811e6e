// Loops and open chains moved sideways by a distance: walls, pockets, clearances.
#pragma once
#include "outline/chains.h"

namespace lp {

enum class Corners { Sharp, Round };

struct OffsetOptions {
    double distance_mm =
        1; ///< loops: positive outward, negative inward; open chains: positive to the left of the first curve
    Corners corners = Corners::Sharp; ///< where the new line has to go round the outside of a corner
    bool close_ends = false;          ///< open chains: lines between the ends of old and new, so that a wall is closed
    SourceKey key = 0;                ///< mixed into the names of the new curves
};

/// Straight and round curves give straight and round ones, exactly; others are followed within 1e-3 mm by cubics.
/// Loops inside loops take the other sign, so that `distance` is always into or out of the material. Parts nearer to
/// the old outline than the distance are left out: what grows together is joined, what closes vanishes. A Problem when
/// nothing is left.
Expected<std::vector<SourcedCurve>> offset_curves(const std::vector<SourcedCurve>& curves,
                                                  const OffsetOptions& options);

} // namespace lp
