// How far a grown surface is from the true one at a distance all round a body.
#pragma once
#include "base/task.h"
#include "shape/distance_field.h"
#include <vector>

namespace lp {

struct GrownDeviation {
    double largest_mm = 0; ///< no place that was looked at is farther off, half a micrometre added for those between
    Vec3 where = Vec3::Zero();
};

/// Both ways. Facets of `surface` are looked at ever more closely, until halves of their edges tell nothing new (within
/// half a micrometre, which is added); places of the true surface are those straight over the body's facets and round
/// its edges, as far as nothing else is nearer, and `seeds`. `field` is of `body`, `distance_mm` above 0 on the side
/// that `inward` says.
GrownDeviation grown_deviation(const TriMesh& surface, const TriMesh& body, const DistanceField& field,
                               const std::vector<Vec3>& seeds, double distance_mm, bool inward, const Task& task);

} // namespace lp
