// Steps on whole faces: the faces of a field, and a kernel call on them.
#pragma once
#include "steps/find_edges.h"
#include "steps/kernel_step.h"

namespace lp {

/// The faces of the field `faces`; refused when there are none.
Expected<FoundFaces> chosen_faces(const std::vector<StepBody>& before, const StepContext& context);
/// Runs the call for the found faces and puts the result in their body's place; see run_kernel_step().
Expected<StepResult> on_faces(const std::vector<StepBody>& before, const StepContext& context, const FoundFaces& found,
                              KernelCall call, const char* what, double low, double high);

} // namespace lp
