// Where printed things stand on one bed and the next.
#pragma once
#include "base/geometry.h"
#include <vector>

namespace lp {

constexpr double room_in_rows_mm = 6; ///< between boxes, where nothing wants more

struct BedPlace {
    Vec3 at = Vec3::Zero(); ///< the middle of its foot, from the front left corner of its bed, mm
    size_t bed = 0;
};
/// Rows from the front left of the bed, and then of the next: simple, and nothing overlaps. Sizes are those of boxes as
/// they lie; what is larger than the bed stands alone.
std::vector<BedPlace> places_in_rows(const std::vector<Vec3>& sizes, const Vec3& bed_mm, double room_between_mm);

} // namespace lp
