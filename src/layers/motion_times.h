// How long a posed mesh takes by the motion of the head: its lines planned and timed.
#pragma once
#include "layers/layer_plan.h"
#include "layers/line_time.h"

namespace lp {

/// By the walls, the infill and the heights of `options`; a raft by the share it adds to the layers. Fails as
/// plan_layers does.
Expected<LineTimes> motion_times(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                 const Task& task = {});

} // namespace lp
