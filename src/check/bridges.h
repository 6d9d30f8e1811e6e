// Flat roofs, and which of them are bridges: held at both ends along some direction, so that lines can be drawn across.
#pragma once
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <optional>

namespace lp {

/// Facets joined over edges that look straight down, above the bed.
struct Roof {
    double area_mm2 = 0;
    Vec3 middle = Vec3::Zero();
    /// How far the lines go at most along the direction that needs the least, when plastic below holds them at both
    /// ends there (three quarters of the area at least: a hole in a bridge leaves it one). None: a roof with a free
    /// side, which is no bridge along any direction.
    std::optional<double> span_mm;
    Vec3 along = Vec3::UnitX(); ///< that direction
    bool held_around = false;   ///< no side is free: the roof of a pocket or of a blind hole
};

/// Largest first. A facet looks straight down within 3 degrees (common practice, no published source); an edge holds
/// when the facet beyond it goes down from there. The mesh stands as posed, up is +z. Stopped: what was found so far.
std::vector<Roof> find_roofs(const TriMesh& posed, const Task& task = {});

} // namespace lp
