// Copies of bodies elsewhere: moved, mirrored, scaled; their faces named after the originals'.
#pragma once
#include "shape/body.h"

namespace lp {

using Affine = Eigen::Affine3d; ///< may scale and mirror

/// The body under a map with no zero scale. Exact bodies stay exact: uneven scales turn round faces into free ones.
/// Tags are kept. Fails when the kernel's volume is not the determinant's.
Expected<Body> mapped(const Body& body, const Affine& map);
/// The same body with every tag derived for copy number `copy` that step `step` made.
Body renamed_copy(const Body& body, StepId step, uint64_t copy);
/// Its pieces as bodies of their own, largest first. A cavity stays with the piece round it.
Expected<std::vector<Body>> separate_pieces(const Body& body);

} // namespace lp
