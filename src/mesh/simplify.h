// Fewer facets for a mesh, within a distance of what it was.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct SimplifyOptions {
    double deviation_mm = 0.005; ///< neither surface is farther from the other
    size_t to_facets = 0;        ///< not fewer than these; 0: as few as the deviation allows
};
struct Simplified {
    TriMesh mesh; ///< welded; without tags
    /// As measured both ways: at every corner and middle of a facet of what it was, and at places not farther apart than
    /// a twentieth of a facet's longest edge on what it is.
    double largest_deviation_mm = 0;
};

/// Edges are collapsed onto corners that are there (by meshoptimizer, which goes by quadrics); what comes out is measured,
/// and tried again with less where it went too far, opened, or crosses itself where it did not before. Borders of open
/// meshes stay. Fails for an empty mesh, a deviation that is none, and on request.
Expected<Simplified> simplify_mesh(const TriMesh& mesh, const SimplifyOptions& options = {}, const Task& task = {});

} // namespace lp
