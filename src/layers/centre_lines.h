// Middle lines of thin places, by triangulating them.
#pragma once
#include "bed/slicing.h"

namespace lp {

/// A line of one width.
struct CentreLine {
    std::vector<Vec2> places;
    double width_mm = 0;
    bool closed = false;
};

/// The places of the outline are `step_mm` apart. A triangle with two inner edges gives one step between their middles;
/// its area over the step's length is the local width, so that the region's area is kept. A line is parted where its
/// width changes by 15 %. Branches shorter than 1.5 widths are noise: their area goes to where they fork off.
std::vector<CentreLine> centre_lines(const Region& thin, double step_mm);

} // namespace lp
