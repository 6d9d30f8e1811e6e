// Which unit a mesh was drawn in, by common sense.
#pragma once
#include "base/geometry.h"
#include <string>

namespace lp {

/// "mm", "inch", "m" or empty when nothing fits. Printed parts measure some millimetres to some hundreds (common
/// practice, no published source); of what is smaller the unit counts in which most of its sizes come out round.
std::string guess_unit(const Vec3& sizes);
/// What a file in that unit is scaled by: 25.4, 1000; 1 for all others.
double unit_factor(const std::string& unit);

} // namespace lp
