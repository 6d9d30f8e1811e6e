// What the lugs and the groove of a twist lock share.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// The fields of both: the wall between the parts, the lugs, where the first one is; then its own.
std::vector<StepField> lock_fields(std::vector<StepField> own);
/// Pieces made for one lug, for every lug, where the lock stands.
Expected<std::vector<Body>> round_the_wall(const std::vector<Body>& pieces, const StepContext& context);
/// Joins the tools to the bodies of the field `what`, or cuts them away.
Expected<StepResult> apply_lock(const std::vector<StepBody>& before, const StepContext& context, Operation operation,
                                const std::vector<Body>& tools);

} // namespace lp
