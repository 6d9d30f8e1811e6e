// Steps that grow from regions of an outline: their fields, and what they grow from.
#pragma once
#include "steps/find_plane.h"
#include "steps/solids/placed_solid.h"

namespace lp {

/// The fields of a step that grows from regions of an outline: which regions of which drawing, its own, and what it
/// does.
std::vector<StepField> growing_fields(std::vector<StepField> own);

/// The outline of the `outline` field and its regions of the `regions` field, those that share an edge made one. Places
/// of problems are in the part.
struct GrownFrom {
    const PlacedOutline* outline = nullptr;
    std::vector<FlatRegion> regions;
};
Expected<GrownFrom> find_regions_to_grow(const StepContext& context);

} // namespace lp
