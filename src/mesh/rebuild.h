// The last cure of a broken mesh: a watertight skin over whatever facets there are.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"

namespace lp {

struct RebuildOptions {
    /// Holes up to twice this wide are bridged, and slots as narrow are filled; 0: a hundredth of the
    /// diagonal. Taken larger, twice as large at a time, while the facets enclose nothing.
    double within_mm = 0;
};
struct Rebuilt {
    TriMesh mesh;          ///< closed, without self-intersections, facing outward; hollows without a way out are filled
    double within_mm = 0;  ///< the distance that enclosed something
    double largest_mm = 0; ///< of the skin from the facets that were there, as measured: more than a hair over holes
};

/// By the general geometry library's alpha wrapping, a twentieth of the distance outside the facets: inner shells,
/// crossings and turned facets are gone. Holes that can be filled should be filled before (mesh/mend.h). Fails without
/// a facet, where nothing is enclosed within a tenth of its diagonal, where the skin would take more than 2,000,000
/// facets, and on request (before and after the wrapping, which takes seconds).
Expected<Rebuilt> rebuild_mesh(const TriMesh& mesh, const RebuildOptions& options = {}, const Task& task = {});

} // namespace lp
