// Branching supports: fine tips under what hangs, leaning together into trunks that stand on the bed where they can.
#pragma once
#include "bed/supports.h"

namespace lp {

/// Tips as far apart as the spacing and the slope allow, twelve-sided branches leaning 40 degrees at most, thicker the
/// more they carry. A tip keeps the contact gap, everything else 0.6 mm from the part. The mesh stands on z = 0; an
/// open one gets what its facets allow.
Supports make_trees(const TriMesh& posed, const SupportOptions& options, const Task& task = {},
                    const SupportWishes& wishes = {});

} // namespace lp
