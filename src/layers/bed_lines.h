// The lines of everything on a bed, in the order of their heights.
#pragma once
#include "layers/part_lines.h"

namespace lp {

/// A copy of a part: its lines as it lies, and where that stands on the bed.
struct LinesOnBed {
    std::shared_ptr<const PartLines> lines;
    Transform stand = Transform::Identity(); ///< turned about the upright and moved
};

/// Layers that end at one height are laid as one; parts whose layers end elsewhere (other heights, a raft) get theirs
/// in between. Rafts lie on the bed, what stands on them above. `tops` holds the heights.
PartLines bed_lines(const std::vector<LinesOnBed>& copies);

} // namespace lp
