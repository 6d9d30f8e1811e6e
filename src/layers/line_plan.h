// From the polygons of layers to the lines a printer lays: walls, thin places, skins, bridges, infill, supports.
#pragma once
#include "base/problem.h"
#include "layers/lines.h"

namespace lp {

/// The plan of every layer, bottom first. Layers are planned side by side and depend on no other's plan, so that the
/// same part gives the same lines on any number of threads. `supports` and `solid` (filled whole wherever it lies in
/// the part) may be shorter than `part`. Fails on request.
Expected<std::vector<LayerLines>> plan_lines(const std::vector<Region>& part, const LineOptions& options,
                                             const std::vector<Region>& supports = {},
                                             const std::vector<Region>& solid = {}, const Task& task = {});

} // namespace lp
