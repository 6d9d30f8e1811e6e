// Repeating: copies of what steps joined or cut, or of whole bodies, applied all at once.
#pragma once
#include "shape/copies.h"
#include "steps/step_kind.h"

namespace lp {

/// Copies at `places` (without the original) of what the fields `steps`, `what`, `drop`, `does` and `many` say.
Expected<StepResult> repeat_at(const std::vector<StepBody>& before, const StepContext& context,
                               std::vector<Affine> places);
/// The fields of a repeating kind: what is repeated, its own, what is left out.
std::vector<StepField> repeating_fields(std::vector<StepField> own);
/// How a repeating kind's sentence begins.
inline constexpr const char* repeated_words = "Repeat {steps}[ of {what}]";

} // namespace lp
