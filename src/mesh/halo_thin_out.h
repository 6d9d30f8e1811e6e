// Fewer facets for a surface at a distance from a body, without leaving the surface by more than a limit.
#pragma once
#include "base/task.h"
#include "shape/distance_field.h"

namespace lp::halo {

struct ThinOutOptions {
    double distance_mm = 0.3;
    bool inward = false;      ///< the surface lies inside the body and faces it
    double limit_mm = 0.0135; ///< no facet and no removed vertex farther from the other surface
};

/// Collapses edges in slabs side by side, in parallel. Where facets pass through each other afterwards, the collapses
/// that made them are taken back, there and nowhere else. Stopped on request: the surface comes back as it was.
TriMesh thin_out(const TriMesh& surface, const DistanceField& field, const ThinOutOptions& options, const Task& task);

} // namespace lp::halo
