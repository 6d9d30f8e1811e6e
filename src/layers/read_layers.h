// What a print plan made elsewhere lays, layer by layer: areas, what lies on nothing, time, filament.
#pragma once
#include "layers/gcode.h"
#include "layers/layer_plan.h"
#include "layers/motion.h"

namespace lp {

struct ReadLayers {
    LayerPlan plan;           ///< time_s by distance over speed
    double time_motion_s = 0; ///< moves with acceleration
    size_t lines = 0;         ///< that are laid
    Box3 box;                 ///< of their middles
    struct Pause {
        size_t layer = 0; ///< the first that is printed after it, from 0
        double z_mm = 0;
    };
    std::vector<Pause> pauses;
};

struct ReadLayersOptions {
    double overhang_limit_deg = 45;
    MaterialCard material;
    MotionCard motion;
};

/// Layers by the heights at which lines are laid. A line is as wide as its filament fills its layer's height (0.2 to
/// 2 mm); areas are counted in squares of 0.1 mm, coarser for large prints. Fails where nothing is laid, for more than
/// 20,000 layers, and on request.
Expected<ReadLayers> read_layers(const PrintPlan& plan, const ReadLayersOptions& options = {}, const Task& task = {});

} // namespace lp
