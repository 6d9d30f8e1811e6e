// Where to stop a print so that a thing can be laid into its pocket.
#pragma once
#include "bed/slicing.h"

namespace lp {

struct PauseLimits {
    double bridge_limit_mm = 10, overhang_limit_deg = 45, line_width_mm = 0.45;
};

struct Pause {
    bool needed = false;
    size_t after = 0;      ///< layers of the part that are finished when the printer stops; raft not counted
    double at_mm = 0;      ///< height of the part then
    double proud_mm = 0;   ///< how far the thing stands above that; more than 0: the nozzle meets it
    bool enters = true;    ///< from above, at every layer
    size_t blocked_in = 0; ///< the layer that is in its way, from 1; 0: none
    double roof_span_mm = 0, roof_loose_share = 0; ///< longest bridge over the pocket; lines with an end in the air
    bool carries_roof = false;                     ///< the thing lies so close under the roof that it carries it
    bool sound = true;                             ///< it enters, stays below the nozzle, and its roof holds
};

/// Layers of the part and of the thing in it, on the same heights; `thing_top_mm` is its true height above the bed. A
/// thing that can be slid out sideways or falls out below needs no pause, nor one that lies open above.
Pause find_pause(const std::vector<Region>& part, const std::vector<Region>& thing, double thing_top_mm,
                 const LayerHeights& heights, const PauseLimits& limits = {});

} // namespace lp
