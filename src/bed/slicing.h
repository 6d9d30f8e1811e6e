// Cutting a posed mesh into flat layers. Shared by supports and the layer plan.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <optional>
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

/// Layers of another height between two heights above the foot. They begin and end where a layer does: at the whole
/// number of layers that comes nearest.
struct HeightBand {
    double from_mm = 0, to_mm = 0, layer_mm = 0.2;
    bool operator==(const HeightBand&) const = default;
};

struct LayerHeights {
    double layer_mm = 0.2; ///< of all layers but the first and those of the bands
    double first_mm = 0.2;
    std::vector<HeightBand> bands = {}; ///< from below upward, none in another
    /// Number of layers a part of this height takes.
    size_t count(double height_mm) const;
    double bottom(size_t layer) const;
    double thickness(size_t layer) const;
    /// The layer that holds this height, counted on above the last.
    size_t layer_at(double z_mm) const;
    double thinnest_mm() const;
    bool operator==(const LayerHeights&) const = default;

  private:
    /// Layers of one height: from layer `first` on, the lowest at `z_mm`.
    struct Run {
        size_t first = 1;
        double z_mm = 0, layer_mm = 0;
    };
    /// The last run for which `before` holds, in their order.
    template <typename Before> Run run_where(const Before& before) const;
};
/// Problem when bands make no sense, or lie in each other.
std::optional<Problem> check_bands(const std::vector<HeightBand>& bands);

/// Material of each layer: the section half-way up the layer, above the mesh's lowest point (`floor_z`). Facets are
/// bucketed by layer and cut with a half-open rule, so that no vertex is met twice; loops are joined by the non-zero
/// rule. Parallel; n log n.
std::vector<Region> slice(const TriMesh& posed, const LayerHeights& heights, double floor_z, size_t layers,
                          const Task& task = {});

} // namespace lp
