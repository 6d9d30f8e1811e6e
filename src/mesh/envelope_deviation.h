// How far a surface is from the one at a distance all round a body: what is asked of an envelope another program made.
#pragma once
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Largest deviation in mm, both ways: corners of the envelope are `by_mm` from the body, and no corner of the body is
/// nearer to the envelope or outside it. Infinite when one is. Both closed and finely triangulated: only corners are
/// looked at, as they alone lie on a curved surface. n log n, on all cores.
double envelope_deviation(const TriMesh& body, const TriMesh& envelope, double by_mm, const Task& task = {});

} // namespace lp
