// A closed mesh from regions that lie on each other.
#pragma once
#include "bed/slicing.h"

namespace lp {

/// `heights` has one entry more than `slabs`, rising, mm; equal neighbours become one. At every height both outlines go
/// into one triangulation, which knows where each of their edges was parted: what lies inside one of them only becomes
/// floor or ceiling, a wall joins the two chains of the same edge. Every edge is run along as often one way as the
/// other.
TriMesh stacked_mesh(const std::vector<Region>& slabs, const std::vector<double>& heights, const Task& task = {});

} // namespace lp
