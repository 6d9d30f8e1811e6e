// A print plan made elsewhere, read to be looked at in the layer view beside what was planned here for a part.
#pragma once
#include "layers/line_time.h"
#include "layers/part_lines.h"
#include "project/analysis.h"
#include <QString>

namespace lp {

struct ReadPlan {
    std::shared_ptr<const PartLines> lines;
    QString words; ///< what it comes to, and against what was planned here for the part; lengths in mm
};

/// `known`: of the part it is compared with; null for none. To be called beside the interface thread.
Expected<ReadPlan> read_plan(const QString& file, const PartAnalysis* known, const QString& part,
                             const PrinterCard& printer, const MaterialCard& material, const Task& task);

/// "outer wall 12 min, infill 8 min, hops 3 min, held back to cool 5 min ...": what the time of lines is made of.
QString time_words(const LineTimes& times);

} // namespace lp
