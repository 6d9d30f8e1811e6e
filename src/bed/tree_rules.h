// What branching supports keep to. Figures from trials (design/supports.md); none is from a published source.
#pragma once
#include "base/geometry.h"
#include <algorithm>
#include <cmath>

namespace lp {

/// Lengths in mm.
struct TreeRules {
    double limit_deg = 45;
    double gap = 0.2;         ///< between a tip and what it carries, and between a foot and the part it stands on
    double clearance = 0.6;   ///< of everything else to the part
    double lean_deg = 40;     ///< of a branch, from upright
    double tip_radius = 0.4;  ///< of the disc that carries
    double thin_radius = 0.6; ///< of the thinnest branch
    double neck = 2.4;        ///< height over which a tip widens into its branch
    double level = 1.5;       ///< height from one ring of a branch to the next
    double apart = 0.15;      ///< between branches that do not merge
    double zone = 3;          ///< this near its tip a branch may come as near to the part as the tip
    double reach_flat = 2.2;  ///< a tip carries what is this near under a flat roof,
    double reach_steep = 5;   ///< and this near at the limit angle; in proportion between
    double foot_flare = 1;    ///< a foot on the bed is wider by this all round, where there is room

    double reach(double hang_deg) const {
        const double share = limit_deg < 90 ? (90 - hang_deg) / (90 - limit_deg) : 0;
        return reach_flat + (reach_steep - reach_flat) * std::clamp(share, 0.0, 1.0);
    }
    /// Of a branch below so many tips and so long a path: its section grows with the load a little slower than in
    /// proportion, and it is never longer than about 14 of its widths.
    double radius(int tips, double path) const {
        // The ring above the neck's end is the last narrow one.
        if (tips == 1 && path < neck - level) return tip_radius + (thin_radius - tip_radius) * path / neck;
        return std::max(thin_radius * std::pow(tips, 0.4), 0.5 + 0.03 * path);
    }
    double lean() const { return std::tan(radians(lean_deg)); }
};

} // namespace lp
