// The lines of a posed part with its supports, layer by layer, and what of them lies on nothing.
#pragma once
#include "layers/layer_plan.h"
#include "layers/lines.h"

namespace lp {

/// A straight or bent run of a line that nothing carries, as far as its next corner.
struct LooseRun {
    uint32_t line = 0; ///< number in its layer
    double length_mm = 0;
    bool bridges = false; ///< held at both ends
    std::vector<Vec2> path;
};

/// Runs from half a millimetre up. `held`: where the middle of a line rests well enough.
std::vector<LooseRun> loose_runs(const LayerLines& layer, const Region& held);

struct PartLines {
    LayerHeights heights;
    std::vector<LayerLines> layers;           ///< bottom first; a raft is not among them
    std::vector<std::vector<LooseRun>> loose; ///< of each layer
};

/// By the walls, the infill and the heights of `options`. A brim, one layer high, is laid first: line beside line along
/// its borders, as supports are told. Fails as plan_layers does.
Expected<PartLines> part_lines(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task = {}, const TriMesh& brim = {});

/// Its regions and lines alone.
struct PosedPlan {
    std::vector<Region> part, supports; ///< supports: none without any
    std::vector<LayerLines> lines;
    LineOptions options;
};
Expected<PosedPlan> plan_posed(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task = {});

} // namespace lp
