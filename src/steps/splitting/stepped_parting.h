// Where a drawn line parts a body in two halves that are put together one way: straight stretches that look that way
// carry pins, those between them give way a little.
#pragma once
#include "shape/body.h"
#include "steps/splitting/pin_places.h"
#include "steps/step_kind.h"

namespace lp {

struct SteppedParting {
    /// x along the longest straight stretch of the line, z square to it, to the left of the line: the halves come
    /// together along z.
    Transform plane = Transform::Identity();
    std::vector<PinPlane> stretches; ///< all that lie along that one; their planes have the same axes
    /// The space on the left of the line, larger than the bodies: what the lower half is without, and, less by the gap
    /// where the line runs across, what the upper half lies in.
    Body above, upper;
};

/// `gap_mm` is left where the line runs across to the longest stretch, so that the halves slide into each other; none
/// where they lie on each other. A Problem where the line turns back: such halves cannot be put together.
Expected<SteppedParting> stepped_parting(const PlacedOutline& outline, double reach_mm, double gap_mm, TagSource tags,
                                         const Task& task);

} // namespace lp
