// Bending and the like: bodies become faceted, finely enough for a stated tolerance, and their corners are mapped.
#pragma once
#include "steps/step_kind.h"

namespace lp {

using PointMap = std::function<Vec3(const Vec3&)>;
/// The longest edge that may stay straight at a place, for an edge of this direction.
using EdgeLimit = std::function<double(const Vec3& at, const Vec3& along)>;

/// The longest edge whose chord, bent to a radius, stays within the tolerance of the arc: sag = length^2 / (8 radius).
double chord_for(double radius, double tolerance_mm);

/// Where a map has kinks: no facet may run across these places of an axis.
struct Kinks {
    int axis = 0;
    std::vector<double> at;
    /// Places to try first as even strips, the fewest first: taken where hardly a facet has to be parted.
    std::vector<std::vector<double>> strips = {};
};

/// Maps the bodies of the field `what` as triangles, parted at the kinks and then finely enough for the limit, or,
/// without one, for a map of second degree to stay within the step's tolerance.
Expected<StepResult> deform(const std::vector<StepBody>& before, const StepContext& context, const PointMap& map,
                            const EdgeLimit& limit, const Kinks& kinks = {}, const char* verb = "bend");

/// The fields of a bending kind: which bodies, its own, the tolerance.
std::vector<StepField> bending_fields(std::vector<StepField> own);
/// 0, 1, 2 for x, y, z.
int axis_index(const std::string& name);
std::vector<std::string> axis_names();

} // namespace lp
