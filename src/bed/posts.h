// Upright support posts under what hangs.
#pragma once
#include "bed/supports.h"

namespace lp {

/// One post at least under every hanging patch that has room for one; others on a grid of the spacing. A post keeps
/// the contact gap to the part on all sides and is made thinner, down to the tip, where it must. The mesh stands on z =
/// 0.
Supports make_posts(const TriMesh& posed, const SupportOptions& options, const Task& task = {},
                    const SupportWishes& wishes = {});

} // namespace lp
