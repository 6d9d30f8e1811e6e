#include "layers/region_tools.h"
#include <algorithm>
#include <limits>

namespace lp {

bool holds(const Region& region, const ClipperLib::IntPoint& p) {
    bool in = false; // even-odd over loops equals non-zero for clean nested ones
    for (const ClipperLib::Path& loop : region) {
        const int where = ClipperLib::PointInPolygon(p, loop);
        if (where < 0) return true;
        in ^= where > 0;
    }
    return in;
}

double distance_to_border(const Region& region, const Vec2& p) {
    double best = std::numeric_limits<double>::max();
    for (const ClipperLib::Path& loop : region)
        for (size_t i = 0; i < loop.size(); ++i) {
            const Vec2 a = place_of(loop[i]), d = place_of(loop[(i + 1) % loop.size()]) - a;
            const double t = d.squaredNorm() > 0 ? std::clamp((p - a).dot(d) / d.squaredNorm(), 0.0, 1.0) : 0;
            best = std::min(best, (a + d * t - p).squaredNorm());
        }
    return std::sqrt(best);
}

Eigen::AlignedBox2d bounds_of(const Region& region) {
    Eigen::AlignedBox2d box;
    for (const ClipperLib::Path& loop : region)
        for (const ClipperLib::IntPoint& p : loop) box.extend(place_of(p));
    return box;
}

Region carried_by_supports(const std::vector<Region>& supports, size_t layer, const LayerHeights& heights,
                           double gap_mm) {
    constexpr double spanned_mm = 2.2;
    const auto reach = size_t(std::ceil(gap_mm / heights.thinnest_mm() + 0.5)) + 1;
    Region below;
    for (size_t j = layer; j-- > 0 && layer - j <= reach;)
        if (!supports[j].empty()) below = unite_regions(below, supports[j]);
    return offset_region(below, spanned_mm);
}

void clean_region(Region& region, double by_mm) {
    ClipperLib::CleanPolygons(region, by_mm * clipper_grid);
    ClipperLib::Clipper clipper;
    clipper.AddPaths(region, ClipperLib::ptSubject, true);
    clipper.Execute(ClipperLib::ctUnion, region, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
}

} // namespace lp
