// What would cure a finding: steps with their numbers, tried before they are offered.
#pragma once
#include "project/edit.h"
#include "project/evaluate.h"
#include "project/findings.h"

namespace lp {

struct FindingCure {
    std::string words; ///< "Pointed roof"
    std::string place; ///< what it is done to: "top of slot"
    std::string hint;  ///< what the press does
    Edit edit;
    bool aside = false; ///< it changes more than the part's shape: another way up, supports, the part in two
};

/// What may help where a finding is: roofs cut to slopes, a chamfer in place of a round or under a ledge, a wall pushed
/// thicker, a gap pushed wider. None for findings that no step cures.
std::vector<FindingCure> cures_of(const Evaluation& evaluation, const PartFinding& finding, const Task& task = {});

struct TriedCure {
    FindingCure cure;
    std::string says; ///< "What hangs falls from 480 to 0 mm²."
};

/// Each cure done on a copy of the project and looked at again; only those that help are told, the best first. Fails on
/// request.
Expected<std::vector<TriedCure>> tried_cures(Evaluator& evaluator, const Evaluation& evaluation,
                                             const PartFinding& finding, const Task& task = {});

} // namespace lp
