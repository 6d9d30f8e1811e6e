// How a part lies on the bed: which way is down, a turn about the vertical, dropped to the bed.
#pragma once
#include "base/problem.h"
#include "shape/body.h"
#include <optional>

namespace lp {

/// A remembered face: enough to find it again after numbers changed (docs/architecture.md, "Tags").
struct FaceReference {
    TagSet tags; ///< of the face when it was picked; the first is the primary one
    Tag primary = 0;
    Vec3 point = Vec3::Zero(); ///< where it was picked, in the part's design frame
    TagSet neighbours;         ///< tags of the faces around it
    bool operator==(const FaceReference&) const = default;
};

FaceReference make_reference(const Tessellation& tessellation, size_t face, const Vec3& point);
/// Index of the face meant; a Problem when it is lost: none carries the primary tag, or several do and neither
/// neighbours nor nearness tell them apart.
Expected<size_t> resolve_reference(const Tessellation& tessellation, const FaceReference& reference);

/// Turns design into print: `down` to -z, then typed turns about x, y and z, then the lowest point to z = 0 and the
/// middle of the box to x = y = 0.
Transform pose_transform(const TriMesh& mesh, const Vec3& down, const Vec3& turn_deg);

} // namespace lp
