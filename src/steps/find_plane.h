// Planes and faces that steps refer to.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// A face found again: which body, which face of its tessellation.
struct FoundFace {
    size_t body = 0, face = 0;
    Tag primary = 0;
};

/// A face as picked (reference_text) or in words: "top of lid", "side 12 of base". Nothing when the text is neither.
Expected<FoundFace> find_face(const std::vector<StepBody>& before, const StepContext& context, const std::string& text,
                              bool any_in_plane);

/// The frame of a plane field: x and y in the plane, z out of it. "xy" looks from above, "xz" from the front, "yz" from
/// the right.
Expected<Transform> find_plane(const std::vector<StepBody>& before, const StepContext& context,
                               const std::string& text);

/// The outline a field names, or the last one when it is empty.
Expected<const PlacedOutline*> find_outline(const StepContext& context, const std::string& name);

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
