// Facets of even size on the same surface.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct RemeshOptions {
    double edge_mm = 1;
    double keep_edges_deg = 30; ///< edges that bend more stay where they are
};
struct Remeshed {
    TriMesh mesh;                    ///< without tags
    double largest_deviation_mm = 0; ///< of its corners from what was there, and the other way round
};
/// By the general library's isotropic remeshing (Botsch and Kobbelt, 2004), three rounds. Fails for open or crowded
/// meshes, beyond two million facets, and on request.
Expected<Remeshed> remesh(const TriMesh& mesh, const RemeshOptions& options, const Task& task = {});

} // namespace lp
