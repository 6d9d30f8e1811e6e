// Letters whose strokes are finer than a line of the nozzle.
#pragma once
#include "check/finding.h"
#include "project/evaluate.h"

namespace lp {

struct FineStroke {
    StepId step;       ///< that draws the letters
    DrawingId element; ///< the text in its drawing
    std::string text;  ///< "BEANS"
    double finest_mm = 0;
    Vec3 at = Vec3::Zero(); ///< in the design frame
};

/// Texts of the part's outlines with strokes finer than a line, by their finest letter. Outlines are taken as they are
/// drawn, whatever is made of them.
std::vector<FineStroke> fine_strokes(const PartResult& made, double line_mm);
/// All of them in one finding, placed as posed; nothing without one.
std::optional<Finding> fine_stroke_finding(const PartResult& made, const Transform& pose, double line_mm);

} // namespace lp
