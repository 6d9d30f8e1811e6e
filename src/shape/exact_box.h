// Boxes of exact shapes. Included only inside shape/.
#pragma once
#include "base/geometry.h"
#include <TopoDS_Shape.hxx>

namespace lp {

/// The smallest box, exactly. The kernel finds it by a slow search on free and ring surfaces: those are only searched
/// where they might reach beyond what the others say.
Box3 exact_box(const TopoDS_Shape& shape);
/// A box round samples of an edge or face, wider by what may lie between them: an eighth of the second difference is
/// how far a smooth curve strays from its chord; twice that is taken.
Box3 sampled_box(const TopoDS_Shape& one);

} // namespace lp
