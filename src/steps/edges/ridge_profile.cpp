#include "steps/edges/ridge_profile.h"
#include <algorithm>
#include <cmath>
#include <limits>
#include <polyclipping/clipper.hpp>

namespace lp {

double RidgeProfile::foot() const {
    const double flank = high / std::tan(radians(slope_deg));
    switch (shape) {
    case RidgeShape::Pointed:
        return 2 * flank;
    case RidgeShape::Flat:
        return 2 * flank + apart / 3;
    case RidgeShape::Round:
        break;
    }
    return 0.9 * apart;
}

double RidgeProfile::height(double beside) const {
    const double x = std::fabs(beside), tan = std::tan(radians(slope_deg)), half = foot() / 2;
    switch (shape) {
    case RidgeShape::Pointed:
        return high - x * tan;
    case RidgeShape::Flat:
        return std::min(high, (half - x) * tan);
    case RidgeShape::Round:
        break;
    }
    return x < half ? high * std::sqrt(1 - x * x / half / half) : -std::numeric_limits<double>::infinity();
}

std::vector<Vec2> ridge_period(const RidgeProfile& profile, double below_mm) {
    const double end = profile.apart / 2, half = profile.foot() / 2;
    std::vector<Vec2> right; // from the crest outward
    auto add = [&](double x, double height) { right.push_back({x, height}); };
    if (profile.shape == RidgeShape::Round) {
        constexpr int facets = 8;
        for (int i = 0; i < facets; ++i) {
            const double x = half * std::sin(i * std::acos(0.0) / facets);
            add(x, profile.height(x));
        }
        add(half, 0);
        add(half, -below_mm);
    } else {
        if (profile.shape == RidgeShape::Flat)
            add(profile.apart / 6, profile.high);
        else
            add(0, profile.high);
        add(half + below_mm / std::tan(radians(profile.slope_deg)), -below_mm);
    }
    std::erase_if(right, [&](const Vec2& p) { return p.x() >= end; });
    const Vec2 last(end, std::max(-below_mm, profile.height(end)));
    std::vector<Vec2> period{{-last.x(), last.y()}};
    for (size_t i = right.size(); i-- > 0;)
        if (right[i].x() > 0) period.push_back({-right[i].x(), right[i].y()});
    period.insert(period.end(), right.begin(), right.end());
    period.push_back(last);
    return period;
}

std::vector<Vec2> offset_polygon(const std::vector<Vec2>& polygon, double by_mm) {
    if (by_mm == 0) return polygon;
    constexpr double grid = 1e6;
    ClipperLib::Path path;
    for (const Vec2& p : polygon) path.push_back({std::llround(p.x() * grid), std::llround(p.y() * grid)});
    ClipperLib::ClipperOffset offset(4);
    offset.AddPath(path, ClipperLib::jtMiter, ClipperLib::etClosedPolygon);
    ClipperLib::Paths moved;
    offset.Execute(moved, by_mm * grid);
    std::vector<Vec2> result;
    if (moved.size() != 1) return result; // none left, or in pieces
    for (const auto& p : moved[0]) result.push_back({double(p.X) / grid, double(p.Y) / grid});
    return result;
}

} // namespace lp
