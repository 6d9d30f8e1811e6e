// The lines of a print plan made elsewhere, layer by layer, to be looked at as those of a plan of ours.
#pragma once
#include "layers/gcode.h"
#include "layers/part_lines.h"

namespace lp {

struct ReadLinesOptions {
    double filament_mm = 1.75;
    double overhang_limit_deg = 45;
};

/// Layers by the heights at which lines are laid; moves that lay one after the other in one width and speed are one
/// line, as wide as its filament fills its layer's height (0.2 to 2 mm). What hangs is told against the lines of the
/// layer below, whose cells smaller than a square centimetre count as infill. Fails where nothing is laid, for more
/// than 20,000 layers, and on request.
Expected<PartLines> read_lines(const PrintPlan& plan, const ReadLinesOptions& options = {}, const Task& task = {});

} // namespace lp
