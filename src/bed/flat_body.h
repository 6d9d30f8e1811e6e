// Flat bodies: outlines raised from one height to another.
#pragma once
#include "bed/slicing.h"

namespace lp {

/// A closed body, or none where the outlines cannot be filled.
TriMesh flat_body(const Region& region, double from_z, double to_z);

} // namespace lp
