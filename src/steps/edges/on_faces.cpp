#include "steps/edges/on_faces.h"

namespace lp {

Expected<StepResult> on_faces(const std::vector<StepBody>& before, const StepContext& context, const FoundFaces& found,
                              KernelCall call, const char* what, double low, double high) {
    for (size_t f : found.faces) call.picks.push_back(int32_t(f));
    auto made = run_kernel_step(before[found.body].body, std::move(call), context, what, low, high);
    if (!made) return pass_on(made);
    StepResult result{before, {}, {}};
    result.bodies[found.body].body = *made;
    return result;
}

Expected<FoundFaces> chosen_faces(const std::vector<StepBody>& before, const StepContext& context) {
    auto found = find_faces(before, context, context.value("faces").geometry());
    if (found && found->faces.empty())
        return problem(ProblemCode::Missing, "No face is chosen.", "Click faces in the view.");
    return found;
}

} // namespace lp
