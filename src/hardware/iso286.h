// Hole and shaft classes of bought metal parts (ISO 286): looked up, never what filament printing holds.
#pragma once
#include "base/problem.h"

namespace lp {

/// Deviations from the nominal diameter, in mm.
struct IsoLimits {
    std::string symbol; ///< "H7", "g6"
    double lower_mm = 0, upper_mm = 0;
};

/// Limits of a hole (H) or shaft (f, g, h, k6, p) class, nominal 0 < d <= 80 mm, grades 6 to 11. Source:
/// data/tables/iso286.json.
Expected<IsoLimits> iso_limits(double nominal_mm, const std::string& symbol);

struct IsoFit {
    double nominal_mm = 0;
    IsoLimits hole, shaft;
    double least_mm = 0, most_mm = 0; ///< clearance on the diameter; below 0 interference
};
/// "8 H7/g6": nominal diameter, hole, shaft.
Expected<IsoFit> iso_fit(const std::string& text);
/// In words, with the plain warning that filament printing does not hold it.
std::string iso_fit_words(const IsoFit& fit);

} // namespace lp
