// Finding the bodies a step names: "all", step numbers or names separated by commas.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// Indices into `bodies`, in the order named, without repeats. Unknown names are refused with the ones there are.
Expected<std::vector<size_t>> pick_bodies(const std::vector<StepBody>& bodies, const std::string& names,
                                          const char* verb);

/// With the bodies that steps repeated of them: "seat" means "seat 2" and "seat 3" as well.
std::vector<size_t> with_copies(const std::vector<StepBody>& bodies, std::vector<size_t> chosen);

} // namespace lp
