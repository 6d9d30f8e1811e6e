// Where two borders of a region face each other: rays from the outline inward.
#pragma once
#include "bed/slicing.h"

namespace lp {

/// Material left of a to b: the unit normal that points into it.
inline Vec2 inward_normal(const Vec2& a, const Vec2& b) {
    const Vec2 d = (b - a).normalized();
    return {-d.y(), d.x()};
}

/// A raster of the region's border; n log n to build, const afterwards.
class FacingWalls {
  public:
    explicit FacingWalls(const Region& region);
    /// From a place along a unit normal to a border that looks back within 60 degrees; `reach_mm` when there is none.
    double distance(const Vec2& from, const Vec2& normal, double reach_mm) const;
    /// The narrowest place, asked every half millimetre of border; `reach_mm` when none is narrower.
    double narrowest(double reach_mm) const;

  private:
    struct Edge {
        Vec2 a, b;
    };
    /// Every cell that a box round a short step from a to b meets.
    template <class Visit> void along(const Vec2& a, const Vec2& b, Visit visit) const;
    std::vector<Edge> edges_;
    std::vector<std::vector<uint32_t>> cells_;
    Vec2 low_ = Vec2::Zero();
    double size_mm_ = 1;
    int columns_ = 0, rows_ = 0;
};

} // namespace lp
