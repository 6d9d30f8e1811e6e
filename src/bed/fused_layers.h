// Where two bodies printed side by side grow together, layer by layer.
#pragma once
#include "base/task.h"
#include "fit/facing.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Layers in whose sections the bodies are nearer to each other than the printer's smallest open gap between upright
/// faces. Both closed, posed on the bed. Found by offsetting the section of one and cutting it with the other's, so no
/// place between samples is missed. Parallel by layers.
std::optional<FusedLayers> fused_sections(const TriMesh& a, const TriMesh& b, const PrinterCard& card,
                                          const Task& task = {});

/// Layers of either.
std::optional<FusedLayers> united(std::optional<FusedLayers> a, const std::optional<FusedLayers>& b);

} // namespace lp
