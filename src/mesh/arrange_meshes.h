// Booleans of any number of meshes at once, by an exact arrangement: facets cut where they meet, space parted into
// cells, a winding number for each operand in each cell. Right where faces lie on each other, bodies touch along edges,
// or an operand's own shells overlap.
#pragma once
#include "mesh/combine.h"

namespace lp {

/// Operands must be closed and face outward; they may pass through themselves where their shells overlap. Corners are
/// first rounded to a grid of about a millionth of their largest coordinate / 60. The result is closed and
/// consistently turned; where bodies touch along an edge its corners are doubled. Tags travel with the facets. Empty
/// when nothing is left; a Problem when the arrangement cannot be trusted. `within_shells`: single shells may pass
/// through themselves too; that is looked for only when it is asked.
Expected<TriMesh> arrange_meshes(Operation operation, const std::vector<TriMesh>& operands, const Task& task = {},
                                 bool within_shells = false);

} // namespace lp
