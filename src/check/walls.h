// Wall thickness everywhere, by inscribed balls: at the middle of a facet the diameter of the largest ball inside the
// body that touches there and whose other contact lies opposite, 120 degrees or more apart as seen from its centre.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <optional>

namespace lp {

struct WallOptions {
    double cap_mm = 6;           ///< thicker walls are not measured, but where there are no others
    double thin_mm = 0.8;        ///< below this a wall counts as thin: two lines of a 0.4 mm nozzle
    double longest_facet_mm = 1; ///< larger facets are parted first: one value a facet
};

struct Walls {
    /// The thinnest, between places that look at each other (within 30 degrees): corners are left out. Exact to 0.02 mm
    /// on flat and round walls. None when nothing lies opposite anything.
    std::optional<double> least_mm;
    Vec3 least_at = Vec3::Zero(); ///< a place on the surface there
    /// True area of facets with walls thinner than `thin_mm`, corners left out as above.
    double thin_area_mm2 = 0;
    size_t thin_places = 0;      ///< patches of such facets
    Vec3 thin_at = Vec3::Zero(); ///< on the largest patch
};

/// Open or crossing meshes are measured as far as rays meet a far side; what is a kilometre large is not. Fails on
/// request.
Expected<Walls> measure_walls(const TriMesh& mesh, const WallOptions& options = {}, const Task& task = {});

/// Thickness all over a surface.
struct WallMap {
    TriMesh facets;        ///< the mesh with its large facets parted
    std::vector<float> mm; ///< three a facet, at its corners; -1: nothing lies opposite within WallOptions::cap_mm
};
/// As measure_walls, corners between flanks included: there the ball runs to nothing. Fails on request.
Expected<WallMap> map_walls(const TriMesh& mesh, const WallOptions& options = {}, const Task& task = {});

/// The same outside: how far apart the flanks of slots and neighbouring shells are. `thin_*` are places nearer than
/// `narrow_mm`; above 1 mm nothing is measured. What touches (below 0.01 mm) is one piece of plastic and no gap.
Expected<Walls> measure_gaps(const TriMesh& mesh, double narrow_mm, const Task& task = {});

} // namespace lp
