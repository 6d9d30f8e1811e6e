// All findings of a project, whoever found them: the same for everybody who shows or counts them.
#pragma once
#include "project/analysis.h"

namespace lp {

/// Failed steps and lost places of every part; of printed ones with a body also what the inspection, the layers and the
/// contacts found. In the order of the parts. `analysis` may be null while it is not there yet.
std::vector<PartFinding> all_findings(const Evaluation& evaluation, const Analysis* analysis);
/// Those of one part that are about the thing as it will be printed: what a check of it shows.
std::vector<PartFinding> findings_of_part(const Evaluation& evaluation, const Analysis* analysis, PartId part);
/// How many are still open at a stretch of the work. Contacts that are not as wanted count for Fit.
size_t open_findings(const Evaluation& evaluation, const Analysis* analysis, FindingStage stage);
/// Whether a mesh of the part has faults that a mend step cures.
bool wants_mending(const Evaluation& evaluation, const Analysis& analysis, PartId part);

} // namespace lp
