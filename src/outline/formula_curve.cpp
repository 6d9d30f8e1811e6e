#include "outline/formula_curve.h"
#include "base/quantity.h"
#include "base/tolerance.h"
#include <cmath>

namespace lp {

Expected<Curve> formula_curve(const FormulaCurve& f, const ParameterValues& parameters) {
    if (!(std::isfinite(f.from_mm) && std::isfinite(f.to_mm)) || std::fabs(f.to_mm - f.from_mm) < 1e-3 ||
        std::fabs(f.from_mm) > tolerance::largest_mm || std::fabs(f.to_mm) > tolerance::largest_mm)
        return problem(ProblemCode::Range,
                       "The formula runs from " + format_quantity(f.from_mm, QuantityKind::Length) + " to " +
                           format_quantity(f.to_mm, QuantityKind::Length) + ".",
                       "Give it a range above 0, within 100 m.");
    ParameterValues values = parameters;
    std::optional<Problem> wrong;
    auto at = [&](double v) {
        static const std::vector<std::string> heights{"y", "h", "z"}, radii{"x", "r"};
        for (const std::string& name : f.x_of_y ? heights : radii) values[name] = {v, QuantityKind::Number};
        auto other = evaluate_expression(f.expression, QuantityKind::Length, values);
        if (!other || std::fabs(*other) > tolerance::largest_mm) {
            if (!wrong) {
                wrong = other ? Problem{ProblemCode::Range, "The formula leaves the drawing.", "Keep it within 100 m."}
                              : other.error();
                wrong->sentence = "At " + std::string(f.x_of_y ? "height " : "radius ") +
                                  format_quantity(v, QuantityKind::Length) + ": " + wrong->sentence;
                wrong->point = f.x_of_y ? Vec3(0, v, 0) : Vec3(v, 0, 0);
            }
            return Vec2(0, 0);
        }
        return Vec2(f.origin + (f.x_of_y ? Vec2(*other, v) : Vec2(v, *other)));
    };
    for (int spans = 2; spans <= 1024; spans *= 2) {
        std::vector<Vec2> through;
        for (int i = 0; i <= spans && !wrong; ++i) through.push_back(at(f.from_mm + (f.to_mm - f.from_mm) * i / spans));
        if (wrong) return pass_on(*wrong);
        Curve curve = Curve::spline(through, false);
        // The ends of a natural spline are flat: its first and last spans are bent by the formula's own slope there.
        double step = (f.to_mm - f.from_mm) / spans, h = step / 64;
        auto slope = [&](double v, double towards) { // one-sided, of third order
            return Vec2((-11 * at(v) + 18 * at(v + towards) - 9 * at(v + 2 * towards) + 2 * at(v + 3 * towards)) /
                        (6 * towards));
        };
        Curve clamped = curve;
        std::vector<Vec2> m(through.size());
        for (size_t i = 0; i < m.size(); ++i) {
            double v = f.from_mm + (f.to_mm - f.from_mm) * double(i) / spans;
            if (i == 0)
                m[i] = slope(v, h);
            else if (i + 1 == m.size())
                m[i] = slope(v, -h);
            else
                m[i] = (at(v + h) - at(v - h)) / (2 * h);
        }
        if (wrong) return pass_on(*wrong);
        for (size_t i = 0; i + 1 < through.size(); ++i) {
            clamped.points[3 * i + 1] = through[i] + m[i] * step / 3;
            clamped.points[3 * i + 2] = through[i + 1] - m[i + 1] * step / 3;
        }
        double worst = 0;
        Vec2 where = Vec2::Zero();
        for (int i = 0; i < spans; ++i)
            for (double share : {0.07, 0.19, 0.29, 0.41, 0.5, 0.62, 0.71, 0.83, 0.95}) {
                double v = f.from_mm + step * (i + share);
                Vec2 p = at(v);
                if (wrong) return pass_on(*wrong);
                if (double d = (clamped.at(i + share) - p).norm(); d > worst) worst = d, where = p;
            }
        if (worst < 1e-3) return clamped;
        if (spans == 1024) {
            Problem jump{ProblemCode::Geometry,
                         "The formula jumps or bends too sharply near " + format_number(where.x(), 2) + ", " +
                             format_number(where.y(), 2) + " mm.",
                         "Split the range there.",
                         Vec3(where.x(), where.y(), 0),
                         {}};
            return pass_on(jump);
        }
    }
    return problem(ProblemCode::Geometry, "The formula cannot be followed.", "Split its range.");
}

} // namespace lp
