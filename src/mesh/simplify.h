// Fewer facets for a mesh, within a distance of what it was.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct SimplifyOptions {
    double deviation_mm = 0.005; ///< neither surface is farther from the other
};
struct Simplified {
    TriMesh mesh; ///< welded; without tags
    /// As measured both ways: at the corners and the middles of the edges of what it was, and at places a twelfth of an
    /// edge apart (a quarter on more than 20,000 facets) on what it is.
    double largest_deviation_mm = 0;
};

/// Edges are collapsed by quadrics of the facets' planes (by the general geometry library); what comes out is measured,
/// and tried again with less where it went too far, opened, or crosses itself where it did not before. The mesh comes
/// back as it was where nothing can go. Fails for an empty mesh, edges of more than two facets, a deviation that is
/// none, and on request.
Expected<Simplified> simplify_mesh(const TriMesh& mesh, const SimplifyOptions& options = {}, const Task& task = {});

} // namespace lp
