// How long a printer takes for planned lines: motion with acceleration, hops, drawing back, cooling.
#pragma once
#include "layers/lines.h"
#include "layers/motion.h"

namespace lp {

/// Assumed; nobody has measured them for a printer of the maker's.
struct LineTimeCard {
    MotionCard motion;
    double outer_acceleration = 600, hop_acceleration = 1500; ///< mm/s2
    double hop_speed = 150;                                   ///< mm/s
    double draw_back_mm = 1, draw_back_speed = 35;            ///< filament, at hops over draw_back_from_mm
    double draw_back_from_mm = 2;
    double least_layer_s = 6, slowest_mm_s = 10; ///< a quicker layer is slowed down to cool, but no line below that
    double layer_change_s = 0.35;
    double start_s = 240; ///< heating and the rest before the first layer
};

struct LineTimes {
    double laying_s = 0, hops_s = 0, drawing_back_s = 0, cooling_s = 0, changes_s = 0, start_s = 0;
    std::array<double, line_kinds> by_kind_s{}; ///< of laying_s
    double path_mm = 0;
    size_t hops = 0, drawn_back = 0;
    double total_s() const { return laying_s + hops_s + drawing_back_s + cooling_s + changes_s + start_s; }
};

/// Layers side by side, each begun where the one before ended.
LineTimes line_times(const std::vector<LayerLines>& layers, const LineTimeCard& card = {});

} // namespace lp
