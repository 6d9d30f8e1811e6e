#include "check/unit_guess.h"
#include <cmath>

namespace lp {

double unit_factor(const std::string& unit) {
    return unit == "inch" ? 25.4 : unit == "m" ? 1000 : 1;
}

std::string guess_unit(const Vec3& sizes) {
    const double extent = sizes.maxCoeff();
    if (!(extent > 0.001) || extent > 2000) return {};
    if (extent >= 4) return "mm";
    // Half millimetres, and of inches their sixteenths too.
    auto round = [](double v, double step) { return std::fabs(v - std::round(v / step) * step) < 0.01; };
    auto round_sizes = [&](const std::string& unit) {
        int count = 0;
        for (double size : sizes)
            count += round(size * unit_factor(unit), 0.5) || (unit == "inch" && round(size * 25.4, 25.4 / 16));
        return count;
    };
    constexpr double least_mm = 2.5, most_mm = 500; // of what is printed as a whole
    auto fits = [&](const char* unit) {
        const double mm = extent * unit_factor(unit);
        return mm >= least_mm && mm <= most_mm;
    };
    if (fits("inch") && fits("m")) {
        const int inch = round_sizes("inch"), metre = round_sizes("m");
        if (inch != metre) return inch > metre ? "inch" : "m";
        constexpr double large_mm = 250; // more than most beds hold
        if (extent * unit_factor("m") > large_mm) return "inch";
    }
    if (fits("m") && (extent < 0.5 || !fits("inch"))) return "m";
    return fits("inch") ? "inch" : "";
}

} // namespace lp
