// Where on a part a finding is: the face, as references can keep it.
#pragma once
#include "check/finding.h"
#include "project/evaluate.h"

namespace lp {

/// A part as it lies; the lowest place on z = 0.
struct PosedPart {
    PartPtr part;
    const PartResult* made = nullptr;
    Transform pose;
    Vec3 up() const { return pose.linear().transpose() * Vec3::UnitZ(); } ///< in the design
    TriMesh mesh() const { return transformed(*made->mesh, pose); }
};
/// Nothing for a part without a body.
std::optional<PosedPart> posed_of(const Evaluation& evaluation, PartId id);

/// A face of a part, and a place on it.
struct FacePlace {
    const Part* part = nullptr;
    const Body* body = nullptr;
    size_t face = 0;
    Vec3 at = Vec3::Zero();  ///< in the design
    Vec3 up = Vec3::UnitZ(); ///< in the design: what is up in print
    const FaceInfo& info() const { return body->tessellation().faces[face]; }
    GeometryItem reference() const { return GeometryItem(make_reference(*body, face, at)); }
    /// "top of slot", "side 2 of step 4".
    std::string words() const;
};

/// The face of the part nearest to where a finding is.
std::optional<FacePlace> place_of_finding(const PosedPart& posed, const Finding& finding);
/// Faces that hang beyond the limit, the largest first; at most six.
std::vector<FacePlace> hanging_places(const PosedPart& posed, double limit_deg);

} // namespace lp
