// Round walls, described so that flat things can be laid on them: angle round the axis, length along the wall, height
// above it. Included only by steps/*.cpp.
#pragma once
#include "steps/step_kind.h"

namespace lp {

struct RoundWall {
    size_t body = 0;
    Transform axis = Transform::Identity(); ///< z along the axis
    /// The wall's line in a half plane through the axis, by arc length from its lower end: radius and height, and the
    /// outward normal's two parts.
    std::vector<double> along;
    std::vector<Vec2> line, normal;

    /// Where a point lies: turned by `angle_rad` round the axis, `s` mm up the wall, `out` mm off it. Beyond its ends
    /// the wall goes on straight.
    Vec3 at(double angle_rad, double s, double out) const;
    double radius_at(double s) const;
    double smallest_radius() const;
    double tightest_bend() const; ///< smallest radius of curvature of the line; large for straight ones
};

/// The wall of a picked or named face: cylinder, cone, sphere, torus or another surface of revolution of an exact body.
Expected<RoundWall> round_wall(const std::vector<StepBody>& before, const StepContext& context, const FieldValue& face);

} // namespace lp
