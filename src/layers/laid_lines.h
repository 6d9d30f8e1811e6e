// The lines that a print plan made elsewhere lays, by the heights at which they lie. Used by read_layers.cpp and
// read_lines.cpp alone.
#pragma once
#include "layers/gcode.h"
#include <map>

namespace lp {

inline constexpr float least_way_mm = 1e-4f;

/// A line as it is laid.
struct Laid {
    Eigen::Vector2f from, to;
    float filament_mm = 0, speed_mm_s = 0;
    float from_z = 0, to_z = 0; ///< the second is its layer's, within rounding
};

/// Whether the move lays a line: it goes sideways and gives filament.
bool lays(const Eigen::Vector3f& from, const PlanMove& move);
/// Microns: heights of one layer differ by rounding.
int height_key(float z);
/// As wide as its filament fills a height: 0.2 to 2 mm.
double laid_width_mm(const Laid& line, double height_mm, double filament_mm);
/// In the order of the plan, by height_key(). Fails where nothing is laid, and for more than 20,000 heights.
Expected<std::map<int, std::vector<Laid>>> laid_by_height(const PrintPlan& plan);

} // namespace lp
