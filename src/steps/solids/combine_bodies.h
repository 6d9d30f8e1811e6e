// Join, cut and keep-common of bodies that stand by themselves.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// The first named body becomes the result; the others are used up.
Expected<StepResult> combine_picked(Operation operation, const std::vector<StepBody>& before,
                                    const StepContext& context, const std::vector<size_t>& operands);
/// The evaluation of a kind whose bodies are all alike: those of its field `what`.
Expected<StepResult> combine_alike(Operation operation, const std::vector<StepBody>& before,
                                   const StepContext& context);

} // namespace lp
