// The cross-section of ridges, grooves, teeth and flutes.
#pragma once
#include "base/geometry.h"
#include <string>
#include <vector>

namespace lp {

enum class RidgeShape {
    Pointed, ///< two slopes
    Flat,    ///< two slopes and a flat crest as wide as a third of the spacing
    Round    ///< half an ellipse
};

struct RidgeProfile {
    RidgeShape shape = RidgeShape::Pointed;
    double apart = 3, high = 1; ///< mm, crest to crest and foot to crest
    double slope_deg = 45;      ///< of its flanks, from the face
    /// How wide it is at its foot, mm; wider than `apart`: the ridges run into each other before they reach the face.
    double foot() const;
    /// Height over the face at a distance from the crest's middle, mm. Beyond its foot the flanks go on below the face;
    /// round ones drop straight down.
    double height(double beside) const;
};

/// Over one period from -apart / 2 to apart / 2: where the profile turns, with heights; the ends are the same height.
/// Between ridges it lies `below_mm` under the face: faces that coincide are hard on booleans.
std::vector<Vec2> ridge_period(const RidgeProfile& profile, double below_mm);

/// A closed polygon moved outward on every side, with mitred corners; inward where it is negative. Empty where nothing
/// is left. Counter-clockwise in, counter-clockwise out.
std::vector<Vec2> offset_polygon(const std::vector<Vec2>& polygon, double by_mm);

} // namespace lp
