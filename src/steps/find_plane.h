// Planes and faces that steps refer to.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// A face found again: which body, which face of its tessellation.
struct FoundFace {
    size_t body = 0, face = 0;
    Tag primary = 0;
};

/// Round about an axis: a cylinder or a cone.
inline bool has_axis(const FaceInfo& face) {
    return face.kind == SurfaceKind::Cylinder || face.kind == SurfaceKind::Cone;
}

/// A face as picked (reference_text) or in words: "top of lid", "side 12 of base". Nothing when the text is neither.
Expected<FoundFace> find_face(const std::vector<StepBody>& before, const StepContext& context, const GeometryItem& item,
                              bool any_in_plane);
/// The one face of a field.
Expected<FoundFace> find_face(const std::vector<StepBody>& before, const StepContext& context, const FieldValue& value,
                              bool any_in_plane);

/// The frame of a plane field: x and y in the plane, z out of it. "xy" looks from above, "xz" from the front, "yz" from
/// the right.
Expected<Transform> find_plane(const std::vector<StepBody>& before, const StepContext& context,
                               const FieldValue& value);

/// The outline a field names, or the last one when it is empty.
Expected<const PlacedOutline*> find_outline(const StepContext& context, const std::string& name);

} // namespace lp
