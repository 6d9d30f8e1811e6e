#include "layers/pause.h"
#include "layers/hatching.h"
#include "layers/region_tools.h"
#include <algorithm>
#include <numbers>

namespace lp {
namespace {

constexpr double rounding_mm2 = 0.02;
constexpr double play_mm = 0.03; ///< a thing as wide as its pocket touches it

bool meet(const Region& a, const Region& b) {
    return !a.empty() && !b.empty() && region_area_mm2(intersect_regions(a, b)) > rounding_mm2;
}

/// All that a region passes when it is moved by so much.
Region swept(const Region& region, const Vec2& way) {
    const ClipperLib::Path stretch{{0, 0}, grid_place(way)};
    Region all = region;
    for (const ClipperLib::Path& loop : region) {
        if (!ClipperLib::Orientation(loop)) continue; // a hole is passed over by the rim round it
        Region sum;
        ClipperLib::MinkowskiSum(stretch, loop, sum, false);
        all = unite_regions(all, sum);
    }
    return all;
}

class PauseSearch {
  public:
    PauseSearch(const std::vector<Region>& part, const std::vector<Region>& thing, double top,
                const LayerHeights& heights, const PauseLimits& limits)
        : part_(part), thing_(thing), top_(top), heights_(heights), limits_(limits) {}

    Pause run() {
        first_ = thing_.size();
        for (size_t k = 0; k < std::min(thing_.size(), part_.size()); ++k)
            if (region_area_mm2(thing_[k]) > rounding_mm2) {
                first_ = std::min(first_, k);
                last_ = k;
            }
        if (first_ == thing_.size()) return {};
        Region column; // all of the thing so far: what has to come down through the layers above it
        size_t closed_by = part_.size();
        for (size_t k = first_; k < part_.size() && closed_by == part_.size(); ++k) {
            const bool in_way = meet(part_[k], offset_region(column, -play_mm));
            if (in_way && k > last_) closed_by = k;
            if (in_way && k <= last_) {
                pause_.enters = false;
                pause_.blocked_in = k + 1;
                break;
            }
            if (k <= last_) column = unite_regions(column, thing_[k]);
        }
        if (pause_.enters && closed_by == part_.size()) return {}; // open above: it can be laid in afterwards
        if (comes_out_sideways() || falls_out()) return {};
        pause_.needed = true;
        pause_.sound = pause_.enters;
        if (pause_.enters) stop_before(closed_by, column);
        return pause_;
    }

  private:
    bool comes_out_sideways() const {
        constexpr int directions = 16;
        Eigen::AlignedBox2d box;
        for (const Region& layer : part_) box.extend(bounds_of(layer));
        for (const Region& layer : thing_) box.extend(bounds_of(layer));
        for (int i = 0; i < directions; ++i) {
            const double angle = 2 * std::numbers::pi * i / directions;
            const Vec2 way = box.diagonal().norm() * Vec2(std::cos(angle), std::sin(angle));
            bool free = true;
            for (size_t k = first_; k <= last_ && free; ++k)
                free = !meet(swept(offset_region(thing_[k], -play_mm), way), part_[k]);
            if (free) return true;
        }
        return false;
    }
    bool falls_out() const {
        Region column;
        for (size_t k = last_ + 1; k-- > 0;) {
            if (meet(part_[k], offset_region(column, -play_mm))) return false;
            if (k >= first_) column = unite_regions(column, thing_[k]);
        }
        return true;
    }
    void stop_before(size_t layer, const Region& column) {
        pause_.after = layer;
        pause_.at_mm = heights_.bottom(layer);
        pause_.proud_mm = top_ - pause_.at_mm;
        const bool below_nozzle = pause_.proud_mm <= 1e-6;
        pause_.carries_roof = below_nozzle && -pause_.proud_mm <= heights_.layer_mm + 1e-6;
        look_at_roof(layer, column);
        const bool roof_holds =
            pause_.carries_roof || (pause_.roof_span_mm <= limits_.bridge_limit_mm && pause_.roof_loose_share < 0.02);
        pause_.sound = below_nozzle && roof_holds;
    }
    /// Every layer that closes more of the column: its lines are to be held at both ends and no longer than the limit.
    void look_at_roof(size_t layer, const Region& column) {
        const Region over = offset_region(column, 0.2);
        const double slope = std::tan(radians(std::min(limits_.overhang_limit_deg, 89.0)));
        constexpr double least_mm2 = 0.2, farthest_mm = 10; // a screw's hole may stay open for good
        for (size_t k = std::max<size_t>(layer, 1); k < part_.size(); ++k) {
            // A line of which a good part lies on the layer below is held: narrow strips go, what stays keeps its span.
            const double strip = std::max(0.75 * limits_.line_width_mm, 1.05 * heights_.thickness(k) * slope);
            const Region fresh =
                intersect_regions(swept_by_disc(subtract_regions(part_[k], part_[k - 1]), strip / 2), over);
            for (const Region& piece : pieces_of(fresh)) {
                if (region_area_mm2(piece) < least_mm2) continue;
                const BridgeDirection bridge = best_bridge(piece, part_[k - 1], limits_.line_width_mm);
                pause_.roof_span_mm = std::max(pause_.roof_span_mm, bridge.longest_mm);
                pause_.roof_loose_share = std::max(pause_.roof_loose_share, bridge.loose_share);
            }
            if (region_area_mm2(subtract_regions(column, part_[k])) < rounding_mm2) return;
            if (double(k - layer) * heights_.layer_mm > farthest_mm) return;
        }
    }

    const std::vector<Region>&part_, &thing_;
    double top_;
    const LayerHeights& heights_;
    const PauseLimits& limits_;
    size_t first_ = 0, last_ = 0;
    Pause pause_;
};

} // namespace

Pause find_pause(const std::vector<Region>& part, const std::vector<Region>& thing, double thing_top_mm,
                 const LayerHeights& heights, const PauseLimits& limits) {
    return PauseSearch(part, thing, thing_top_mm, heights, limits).run();
}

} // namespace lp
