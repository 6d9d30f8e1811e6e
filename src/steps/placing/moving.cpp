#include "steps/placing/moving.h"
#include "steps/pick_bodies.h"
#include "steps/step_bodies.h"

namespace lp {

Expected<StepResult> move_chosen(const std::vector<StepBody>& before, const StepContext& context,
                                 const Transform& move) {
    auto chosen = pick_bodies(before, context.word("what"), "move");
    if (!chosen) return pass_on(chosen);
    StepResult result{before, {}, {}};
    for (size_t i : *chosen) {
        if (context.cancelled()) return cancelled();
        auto body = moved_with_halos(before[i], move);
        if (!body) return pass_on(body);
        result.bodies[i] = *body;
    }
    return result;
}

Expected<StepResult> move_as_one(const std::vector<StepBody>& before, const std::vector<size_t>& chosen,
                                 const Transform& move) {
    StepResult result{before, {}, {}};
    for (size_t i : chosen) {
        auto body = moved_with_halos(before[i], move);
        if (!body) return pass_on(body);
        result.bodies[i] = *body;
    }
    result.place = StepPlace{move, {}, {}};
    return result;
}

} // namespace lp
