// A brim: a flat border round what lies on the bed, one layer high, so that tall and narrow things keep standing.
#pragma once
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Round the outer outlines of the first layer, a closed body of its own that touches the part; the holes of the part
/// stay free. Empty where nothing lies on the bed. The mesh stands on z = 0.
TriMesh make_brim(const TriMesh& posed, double width_mm, double layer_mm, const Task& task = {});

} // namespace lp
