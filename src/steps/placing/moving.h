// Moving bodies of a part, one by one or several as one.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// The bodies of the field `what`, each moved.
Expected<StepResult> move_chosen(const std::vector<StepBody>& before, const StepContext& context,
                                 const Transform& move);
/// Chosen bodies moved as one. Grown parts take the move of the part as it is, kept in the step's place.
Expected<StepResult> move_as_one(const std::vector<StepBody>& before, const std::vector<size_t>& chosen,
                                 const Transform& move);

} // namespace lp
