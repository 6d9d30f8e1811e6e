// Where a mapped gap is: what a section must pass through to show it.
#pragma once
#include "project/surface_map.h"

namespace lp {

/// Box in the assembly of the mapped surface that hangs together with the facet nearest to `place` (a joint may have
/// several such surfaces, one at each end of a pin). Empty when nothing is mapped.
Box3 mapped_region(const std::vector<SurfaceMap>& maps, const Evaluation& evaluation, const Vec3& place);

} // namespace lp
