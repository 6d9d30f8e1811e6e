#include "steps/fits/bending_beam.h"
#include <cmath>
#include <limits>

namespace lp {

namespace {
/// Integral from 0 to 1 of (1 - s)² / (1 - (1 - k) s)³: a third for an even beam. Simpson's rule.
double bending_integral(double k) {
    constexpr int n = 200;
    double sum = 0;
    for (int i = 0; i <= n; ++i) {
        const double s = double(i) / n, left = 1 - s, thick = 1 - (1 - k) * s;
        sum += (i == 0 || i == n ? 1 : i % 2 ? 4 : 2) * left * left / (thick * thick * thick);
    }
    return sum / (3 * n);
}
} // namespace

double BendingBeam::strain_at(double aside_mm) const {
    return thick_mm * aside_mm / (2 * bending_integral(tip_share) * length_mm * length_mm);
}

double BendingBeam::force_n(double aside_mm) const {
    return wide_mm * thick_mm * thick_mm * modulus_mpa * strain_at(aside_mm) / (6 * length_mm);
}

double BendingBeam::length_for(double aside_mm, double strain) const {
    return std::sqrt(thick_mm * aside_mm / (2 * bending_integral(tip_share) * strain));
}

double BendingArc::compliance() const {
    const double c = std::cos(to);
    auto at = [&](double b) { return b / 2 + std::sin(2 * b) / 4 - 2 * c * std::sin(b) + b * c * c; };
    return at(to) - at(from);
}

double BendingArc::strain_at(double aside_mm) const {
    return aside_mm * thick_mm * (std::cos(from) - std::cos(to)) / (2 * radius_mm * radius_mm * compliance());
}

double BendingArc::force_n(double aside_mm) const {
    const double inertia = wide_mm * std::pow(thick_mm, 3) / 12;
    return aside_mm * modulus_mpa * inertia / (std::pow(radius_mm, 3) * compliance());
}

double web_strain(double thick_mm, double length_mm, double angle) {
    return thick_mm * angle / (2 * length_mm);
}

double mating_force(double force_n, double slope) {
    const double under = 1 - sliding_friction * std::tan(slope);
    if (!(under > 1e-6) || !(slope < 1.57)) return std::numeric_limits<double>::infinity();
    return force_n * (sliding_friction + std::tan(slope)) / under;
}

} // namespace lp
