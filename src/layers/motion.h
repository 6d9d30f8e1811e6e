// How long a printer takes for moves: straight stretches with acceleration, cornering and look-ahead.
#pragma once
#include "base/geometry.h"
#include <vector>

namespace lp {

/// Assumed; nobody has measured them for a printer of the maker's.
struct MotionCard {
    double acceleration = 1000; ///< mm/s2
    double corner_mm = 0.02;    ///< how far a rounded corner may pass inside the sharp one
    double least_s = 0.0008;    ///< a controller takes no stretch faster
};

struct MotionMove {
    float length_mm = 0, speed_mm_s = 0;
    float enter2 = 0; ///< the highest square of the speed at its beginning, from the corner there
};

/// The square of the speed at which a corner is passed; `cosine` between the directions before and after (1: straight
/// on). The circle that touches both legs and passes the corner at corner_mm; corners of a fine polyline round an arc
/// are held by the arc itself, and are never slower than a square one.
double corner_speed2(double cosine, const MotionCard& card, double shorter_leg_mm);

/// A chain of moves that begins and ends at rest: speeds by a backward and a forward sweep, times by trapezoids,
/// seconds.
double chain_time(const std::vector<MotionMove>& chain, const MotionCard& card);

/// The same for a path through places, each stretch at its speed (one fewer than places).
double path_time(const std::vector<Vec3>& places, const std::vector<double>& speeds_mm_s, const MotionCard& card = {});

} // namespace lp
