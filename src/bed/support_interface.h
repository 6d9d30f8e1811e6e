// A closed floor on the tips of supports, just below what they carry: what is printed on it comes out smoother.
#pragma once
#include "bed/supports.h"

namespace lp {

/// Lays options.interface_layers layers under all that hangs near the places that are carried, the contact gap below it
/// and as far from the walls beside it, and joins them to the supports: `made.mesh` is closed as before. Nothing under
/// faces that keep tips off, and no piece that no tip holds. Leaves the supports as they are on request.
void add_interface(const TriMesh& posed, const SupportOptions& options, const FacetMarks& marks, Supports& made,
                   const Task& task = {});

} // namespace lp
