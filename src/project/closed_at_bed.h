// Gaps between bodies printed in each other that the first layer alone closes.
#pragma once
#include "project/cures.h"

namespace lp {

struct Analysis;
struct PartAnalysis;
/// How many contacts of the part it is, and the first of them; nothing without one.
std::optional<Finding> closed_at_bed(const Evaluation& evaluation, const Analysis& analysis, const PartAnalysis& known);
/// How many pairs of bodies of a part are closed in the first layer, as it lies.
size_t pairs_closed_at_bed(const Evaluation& evaluation, PartId part, const Task& task);
/// Chamfers: of the joint, where it is one that was asked for a plain foot, else as a step of their own.
void add_chamfered_feet(const Evaluation& evaluation, const PartFinding& finding, std::vector<FindingCure>& cures);

} // namespace lp
