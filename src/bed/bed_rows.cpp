#include "bed/bed_rows.h"
#include <algorithm>

namespace lp {

std::vector<BedPlace> places_in_rows(const std::vector<Vec3>& sizes, const Vec3& bed_mm, double room_between_mm) {
    std::vector<BedPlace> places;
    double x = 0, y = 0, row = 0;
    size_t number = 0;
    for (const Vec3& size : sizes) {
        if (x > 0 && x + size.x() > bed_mm.x()) {
            x = 0;
            y += row + room_between_mm;
            row = 0;
        }
        if (y > 0 && y + size.y() > bed_mm.y()) {
            x = y = row = 0;
            ++number;
        }
        places.push_back({{x + size.x() / 2, y + size.y() / 2, 0}, number});
        x += size.x() + room_between_mm;
        row = std::max(row, size.y());
    }
    return places;
}

} // namespace lp
