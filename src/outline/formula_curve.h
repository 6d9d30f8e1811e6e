// A curve given by a formula: one coordinate as a function of the other.
#pragma once
#include "base/expression.h"
#include "outline/curve.h"

namespace lp {

struct FormulaCurve {
    std::string expression; ///< in mm; the variable is x (also r) or y (also h, z): "6 + 0.02 * h^2"
    bool x_of_y = false;    ///< the radius as a function of height; otherwise height as a function of the radius
    double from_mm = 0, to_mm = 20;
    Vec2 origin = Vec2::Zero();
};

/// A smooth curve through points of the formula, more of them until it lies within 1e-3 mm between them. Problems: what
/// cannot be read, an empty or endless range, a value that is no number (with the place), a jump.
Expected<Curve> formula_curve(const FormulaCurve& formula, const ParameterValues& parameters);

} // namespace lp
