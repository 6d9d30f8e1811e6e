// The plan of the practice printer as G-code: to be looked at and compared elsewhere. Not for a machine: nothing is
// heated, nothing is homed, and the first word stops it.
#pragma once
#include "layers/line_time.h"
#include "layers/part_lines.h"

namespace lp {

/// A stop in the plan.
struct PlanStop {
    size_t layer = 0;  ///< the first that is laid after it, of PartLines::layers
    std::string words; ///< why, in one line
};

struct GcodeOptions {
    std::string title;
    double filament_mm = 1.75;
    LineTimeCard card; ///< hops and drawing back
    std::vector<PlanStop> stops;
};

/// Absolute places in mm from where the part stands, filament relative (M83), a comment a layer and a kind of line,
/// M0 where it stops. The filament of a line is its length x width x height over the filament's section. Fails on
/// request.
Expected<std::string> write_gcode(const PartLines& lines, const GcodeOptions& options = {}, const Task& task = {});

} // namespace lp
