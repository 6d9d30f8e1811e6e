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
    LayerHeights heights;                     ///< of the part
    size_t raft = 0;                          ///< so many of the layers, the lowest, are a raft's
    std::vector<LayerLines> layers;           ///< bottom first
    std::vector<std::vector<LooseRun>> loose; ///< of each layer
    std::vector<double> tops;                 ///< of a plan made elsewhere, which has its own heights
    double thickness(size_t layer) const;
    /// Above the foot of the part; a raft's are below 0.
    double bottom(size_t layer) const;
};

/// By the walls, the infill, the heights and the raft of `options`. A brim, one layer high, is laid first: line beside
/// line along its borders, as supports are told. Fails as plan_layers does.
Expected<PartLines> part_lines(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task = {}, const TriMesh& brim = {});

/// Its regions and lines alone.
struct PosedPlan {
    std::vector<Region> part, supports; ///< supports: none without any
    std::vector<Region> solid;          ///< filled whole; none without any
    std::vector<LayerLines> lines;
    LineOptions options;
};
Expected<PosedPlan> plan_posed(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task = {});
/// The layers of the raft that `options` ask for, bottom first: rows under all that lies on the bed, three lines apart,
/// the topmost closed.
Expected<std::vector<LayerLines>> raft_lines(const PosedPlan& plan, const LayerOptions& options, const Task& task = {});

} // namespace lp
