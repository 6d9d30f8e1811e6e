// A part drawn for the bench: from above, from in front and from the right with its sizes, cut through the middle, and
// the list of what to measure on the print.
#pragma once
#include "handoff/page_drawing.h"
#include "handoff/pdf_writer.h"
#include "project/sizes_to_measure.h"

namespace lp {

struct DrawnPart {
    std::string name;
    std::string words;                ///< "Rain gauge; PLA"
    const TriMesh* mesh = nullptr;    ///< as it lies on the bed
    std::vector<SizeToMeasure> sizes; ///< of sizes_to_measure()
};

/// The largest scale of ISO 5455 in which all of it fits into so many points; 0 where none does.
double drawing_scale(const DrawnPart& part, const Vec2& room);
/// "2 : 1", "1 : 5".
std::string scale_words(double scale);

/// Stops on request: then it is not whole.
PageDrawing draw_views(const DrawnPart& part, const Vec2& room, const Task& task = {});

/// Of a printed part by its name, as it lies on the bed; a Problem where there is none, or it has no body.
Expected<DrawnPart> part_to_draw(const Evaluation& evaluation, const Analysis& analysis, const std::string& name);

/// The drawing and below it the list, with room for what was found.
Expected<std::string> drawing_pdf(const DrawnPart& part, Paper paper, const Task& task = {});
Expected<std::string> drawing_svg(const DrawnPart& part, Paper paper, const Task& task = {});

} // namespace lp
