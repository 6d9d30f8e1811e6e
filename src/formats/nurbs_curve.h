// Splines of files as chains of cubics.
#pragma once
#include "outline/curve.h"
#include <optional>

namespace lp {

/// A B-spline with knots and weights as a chain of cubics: exactly up to degree 3 without weights, otherwise within
/// about 1e-4 of its size. Nothing when knots fall, degree lies outside 1 to 11, or counts do not fit.
std::optional<Curve> nurbs_curve(int degree, const std::vector<double>& knots, const std::vector<Vec2>& controls,
                                 const std::vector<double>& weights);

} // namespace lp
