// What is printed on one bed, all of it at once.
#pragma once
#include "layers/part_lines.h"
#include "project/analysis.h"
#include "project/bed_plan.h"

namespace lp {

/// Where every copy stands, with its supports, brim and raft.
BedPlan bed_plan_of(const Evaluation& evaluation, const Analysis& analysis);
/// The lines of everything on a bed (from 0), layer by layer; a skirt goes round all of it. In the frame of the bed:
/// the front left corner is the origin. Fails where a part cannot be planned, for an empty bed, and on request.
Expected<PartLines> lines_of_bed(const Evaluation& evaluation, const Analysis& analysis, size_t bed,
                                 const Task& task = {});

} // namespace lp
