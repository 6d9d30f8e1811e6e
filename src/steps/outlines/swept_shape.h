// Bodies swept along a path or lofted through sections. Included only by steps/*.cpp.
#pragma once
#include "outline/outline_shape.h"
#include "shape/body.h"
#include "shape/exact_solids.h"

namespace lp {

struct SweepOptions {
    double twist_deg = 0;
    double scale = 1;
    bool upright = false; ///< the section keeps its direction in space
    double longer_mm = 0; ///< the path runs on straight by this much at both ends
};

/// Regions in their plane drawn along a chain of curves in another. The section stays where it was drawn relative to
/// the path's beginning. Without twist and scale by the kernel's pipe (exact for lines and arcs); otherwise through
/// sections about every 6 degrees and 1/24 of the length. Problems: a path that bends more tightly than the section
/// reaches towards the bend, corners in a twisted sweep, a result that is not sound.
Expected<Body> swept_body(const std::vector<FlatRegion>& regions, const Transform& plane,
                          const std::vector<SourcedCurve>& path, const Transform& path_plane,
                          const SweepOptions& options, TagSource tags);

struct LoftSection {
    FlatRegion region;
    Transform plane;
};
Expected<Body> lofted_body(const std::vector<LoftSection>& sections, bool straight, TagSource tags);

} // namespace lp
