// Where two straight or circular pieces meet.
#pragma once
#include "outline/curve.h"

namespace lp {

struct Meeting {
    double s = 0, t = 0; ///< parameters on the first and the second
};

/// Meetings of two lines or arcs (kinds Line and Arc only), ends included when within `tolerance` mm. Pieces that run
/// along each other meet where the shared stretch begins and ends.
std::vector<Meeting> meetings(const Curve& a, const Curve& b, double tolerance);

} // namespace lp
