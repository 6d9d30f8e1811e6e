// The closed surface of one branching support.
#pragma once
#include "bed/tree_growth.h"

namespace lp {

struct TreeMesh {
    TriMesh mesh;
    bool needs_uniting = false; ///< shells of it reach into each other
};

/// A ring of twelve on every disc, all with the same phase. A branch between two levels is a tube; where branches merge
/// it is the convex hull of the rings above and the ring below.
TreeMesh tree_mesh(const Forest& forest, int root);

} // namespace lp
