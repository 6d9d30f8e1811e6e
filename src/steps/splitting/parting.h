// The geometry behind split and widen. Included only by steps/*.cpp.
#pragma once
#include "mesh/combine.h"
#include "shape/exact_solids.h"
#include "steps/step_kind.h"

namespace lp {

/// What lies on the left of the outline's longest open line, its ends carried on straight, as far as `reach_mm`; of an
/// outline that only has closed figures, their insides.
Expected<std::vector<FlatRegion>> regions_left_of(const PlacedOutline& outline, double reach_mm);

/// The body parted at the plane, the half above it moved along the plane's normal by `apart_mm`, its section drawn
/// across. Exact bodies stay exact. Nothing when the plane misses. The volume grows by section times distance.
Expected<std::optional<Combined>> widened(const Body& body, const Transform& plane, double apart_mm, TagSource tags,
                                          const Task& task);

/// What bends goes with the half its root is in: from the lower one, which has all of it, to the upper one.
void part_bends(const Transform& plane, StepBody& lower, StepBody& upper);

/// The fields of a kind that parts bodies: which ones, by what, and its own.
std::vector<StepField> parting_fields(std::vector<StepField> own);

} // namespace lp
