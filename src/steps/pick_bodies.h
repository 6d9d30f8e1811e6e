// Finding the bodies a step names: "all", step numbers or names separated by commas.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// Indices into `bodies`, in the order named, without repeats. Unknown names are refused with the ones there are.
Expected<std::vector<size_t>> pick_bodies(const std::vector<StepBody>& bodies, const std::string& names,
                                          const char* verb);

} // namespace lp
