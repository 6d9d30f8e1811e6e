// What a maker wants of the supports of a part besides their sizes: marked faces, single supports put in or left out.
#pragma once
#include "bed/face_marks.h"
#include <algorithm>

namespace lp {

/// A place on the part where a support is put in by hand, or left out.
struct SupportChange {
    Vec3 at = Vec3::Zero();
    bool added = false;
    bool operator==(const SupportChange&) const = default;
};

struct SupportWishes {
    FacetMarks marks;
    std::vector<SupportChange> changes; ///< places in the frame of the mesh
    /// Whether what would be carried here was left out by hand, within so far of it.
    bool leaves_out(const Vec3& at, double reach_mm) const {
        return std::any_of(changes.begin(), changes.end(), [&](const SupportChange& c) {
            return !c.added && (c.at - at).squaredNorm() < reach_mm * reach_mm;
        });
    }
};

/// How far from the part a place may have come to lie, by other numbers, and still be the place on it.
inline constexpr double change_reach_mm = 3;

} // namespace lp
