// What each layer adds: area, material printed on nothing, and an estimate of time, filament and mass.
#pragma once
#include "base/problem.h"
#include "bed/slicing.h"
#include "fit/fits.h"
#include <memory>

namespace lp {

/// A body, posed as the part is: where it lies in the part, and sideways so far round it, the part is filled whole.
struct SolidPlace {
    std::shared_ptr<const TriMesh> posed;
    double around_mm = 0;
};
/// Of each layer; none without any. `floor_z`: the part's lowest point.
std::vector<Region> solid_regions(const std::vector<SolidPlace>& solids, const LayerHeights& heights, double floor_z,
                                  size_t layers, const Task& task = {});

struct LayerOptions {
    LayerHeights heights;
    int walls = 3;
    double infill_percent = 15;
    Infill infill = Infill::Lines;
    std::vector<SolidPlace> solids;
    double time_factor = 1;      ///< of all but the heating, by what prints took: time_factor() of fit/cards.h
    double line_width_mm = 0.45; ///< a little wider than a 0.4 nozzle (common practice, no published source)
    double overhang_limit_deg = 45;
    double support_gap_mm = 0.2; ///< a support this far below still carries
    int raft_layers = 0;
    int interface_layers = 0; ///< of supports that are filled, the topmost
    int skirt_loops = 0;      ///< round all that lies on the bed
    double power_w = 0, price_per_kwh = 0;
    MaterialCard material;
};

/// Material that starts in the air: nothing under it in the layer below.
struct Island {
    size_t layer = 0; ///< from 0, raft not counted
    double z_mm = 0;  ///< underside
    double area_mm2 = 0;
    Vec2 at = Vec2::Zero();
};

struct Layer {
    double z_mm = 0; ///< underside, above the bed (raft not counted)
    double thickness_mm = 0;
    double area_mm2 = 0;
    double support_area_mm2 = 0;
    double unsupported_mm2 = 0; ///< beyond what the layer below carries at the overhang limit
};

struct LayerPlan {
    std::vector<Layer> layers;
    std::vector<Island> islands;
    double height_mm = 0;
    double time_s = 0;
    double filament_mm = 0;
    double mass_g = 0;
    double price = 0;      ///< of the plastic
    double energy_kwh = 0; ///< what the printer draws in that time
    double energy_price = 0;
    int raft_layers = 0;
};

/// Told for heating and the rest before the first layer.
inline constexpr double plan_start_s = 180;

/// The mesh stands as posed; its lowest point lies on the bed. `supports` may be empty. Fails on request, for an empty
/// mesh and for more than 100,000 layers.
Expected<LayerPlan> plan_layers(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                const Task& task = {});

} // namespace lp
