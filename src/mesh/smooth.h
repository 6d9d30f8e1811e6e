// Rough surfaces made even, with the volume they had.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct SmoothOptions {
    int rounds = 10;
    double keep_edges_deg = 40; ///< edges that bend more stay: their corners move along them only
};
struct Smoothed {
    TriMesh mesh;
    double largest_move_mm = 0;
};
/// Each corner goes half way to the middle of those beside it, near ones counting more, and back a little more (Taubin,
/// A signal processing approach to fair surface design, 1995: 0.5 and -0.53), round after round; what volume that takes
/// is given back evenly all over. Facets and tags stay. Fails for open meshes and on request.
Expected<Smoothed> smooth_mesh(const TriMesh& mesh, const SmoothOptions& options = {}, const Task& task = {});

} // namespace lp
