// Cutting a posed mesh into flat layers. Shared by supports and the layer plan.
#pragma once
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <polyclipping/clipper.hpp>

namespace lp {

/// Clipper's integers stand for 1e-5 mm: fine enough for any printer, safe to 2 m and more.
inline constexpr double clipper_grid = 1e5;
using Region = ClipperLib::Paths; ///< outer loops counter-clockwise, holes clockwise

double region_area_mm2(const Region& region);
Region unite_regions(const Region& a, const Region& b);
Region subtract_regions(const Region& a, const Region& b);
Region intersect_regions(const Region& a, const Region& b);
/// Round corners whose chords are within `arc_mm`; negative shrinks.
Region offset_region(const Region& region, double by_mm, double arc_mm = 0.01);
/// What a disc of this radius can sweep: everything narrower than two radii is gone.
Region swept_by_disc(const Region& region, double radius_mm, double arc_mm = 0.01);
/// Each connected piece with its holes.
std::vector<Region> pieces_of(const Region& region);
/// Centre of area in mm.
Vec2 region_centre(const Region& region);

struct LayerHeights {
    double layer_mm = 0.2;
    double first_mm = 0.2;
    /// Number of layers a part of this height takes.
    size_t count(double height_mm) const;
    double bottom(size_t layer) const { return layer == 0 ? 0 : first_mm + double(layer - 1) * layer_mm; }
    double thickness(size_t layer) const { return layer == 0 ? first_mm : layer_mm; }
    bool operator==(const LayerHeights&) const = default;
};

/// Material of each layer: the section half-way up the layer, above the mesh's lowest point (`floor_z`). Facets are
/// bucketed by layer and cut with a half-open rule, so that no vertex is met twice; loops are joined by the non-zero
/// rule. Parallel; n log n.
std::vector<Region> slice(const TriMesh& posed, const LayerHeights& heights, double floor_z, size_t layers,
                          const Task& task = {});

} // namespace lp
