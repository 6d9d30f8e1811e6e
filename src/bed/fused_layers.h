// Where two bodies printed side by side grow together, layer by layer.
#pragma once
#include "base/task.h"
#include "bed/slicing.h"
#include "fit/facing.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Layers in whose sections the bodies are nearer to each other than the printer's smallest open gap between upright
/// faces. Both closed, posed on the bed. Found by offsetting the section of one and cutting it with the other's, so no
/// place between samples is missed. Parallel by layers.
std::optional<FusedLayers> fused_sections(const TriMesh& a, const TriMesh& b, const LayerHeights& heights,
                                          const PrinterCard& card, const Task& task = {});

/// A place in the first layer where the sections of the two, both posed on the bed, are nearer than `gap_mm`
/// (PrinterCard::first_layer_gap_mm).
std::optional<Vec3> closed_in_first_layer(const TriMesh& a, const TriMesh& b, const LayerHeights& heights,
                                          double gap_mm, const Task& task = {});

/// Layers of either.
std::optional<FusedLayers> united(std::optional<FusedLayers> a, const std::optional<FusedLayers>& b);

} // namespace lp
