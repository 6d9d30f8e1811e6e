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

/// So far beyond all that is in the box that what is as large covers it.
double reach_beyond(const Box3& box);
double reach_beyond(const std::vector<StepBody>& bodies);
/// The half space above a plane, larger than what lies in the box.
Expected<Body> space_above(const Transform& plane, const Box3& box, TagSource tags);

/// A body in two, and what else comes of it; nothing where all of it is on one side of the plane.
struct Halves {
    Body lower, upper;
    std::vector<StepBody> more = {};
};
/// The plane and the gap of the fields `by`, `distance` and `fit`, for kinds that part bodies and fit the halves; such
/// a part cannot be remade larger.
struct FittedParting {
    Transform plane = Transform::Identity();
    double gap_mm = 0;
};
Expected<FittedParting> fitted_parting(const std::vector<StepBody>& before, const StepContext& context);
/// Parts every body of the field `what`: the lower half stays in its place, named things come after all bodies.
Expected<StepResult>
part_in_halves(const std::vector<StepBody>& before, const StepContext& context, const Transform& plane,
               const std::function<Expected<std::optional<Halves>>(const Body& body, const std::string& called)>& part);

/// The fields of a kind that parts bodies: which ones, by what, and its own.
std::vector<StepField> parting_fields(std::vector<StepField> own);

} // namespace lp
