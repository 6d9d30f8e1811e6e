#include "steps/solids/combine_bodies.h"
#include "steps/pick_bodies.h"
#include <algorithm>

namespace lp {

Expected<StepResult> combine_picked(Operation operation, const std::vector<StepBody>& before,
                                    const StepContext& context, const std::vector<size_t>& operands) {
    if (operands.size() < 2)
        return problem(ProblemCode::Missing,
                       operation == Operation::Common
                           ? std::string("There is only one body: nothing is common to it and another.")
                           : std::string("There is only one body to ") + operation_name(operation) + ".",
                       "Name two or more, or let a solid before this stand as a new body.");
    std::vector<Body> others;
    for (size_t k = 1; k < operands.size(); ++k) others.push_back(before[operands[k]].body);
    auto combined = combine(operation, before[operands[0]].body, others, context.task);
    if (!combined) return pass_on(combined);
    StepResult result;
    result.note = combined->note;
    for (size_t i = 0; i < before.size(); ++i) {
        if (i == operands[0]) {
            StepBody made{before[i].made_by, before[i].name,   combined->body,
                          before[i].halos,   before[i].solids, before[i].bends};
            for (size_t k = 1; k < operands.size() && operation == Operation::Join; ++k) {
                const StepBody& more = before[operands[k]];
                made.halos.insert(made.halos.end(), more.halos.begin(), more.halos.end());
                made.bends.insert(made.bends.end(), more.bends.begin(), more.bends.end());
                made.solids.insert(made.solids.end(), more.solids.begin(), more.solids.end());
            }
            result.bodies.push_back(std::move(made));
        } else if (std::find(operands.begin(), operands.end(), i) == operands.end())
            result.bodies.push_back(before[i]);
    }
    for (size_t i = 0; i < result.bodies.size(); ++i)
        if (result.bodies[i].made_by == before[operands[0]].made_by) tell_pieces(result, i, 1);
    return result;
}

Expected<StepResult> combine_alike(Operation operation, const std::vector<StepBody>& before,
                                   const StepContext& context) {
    auto chosen = pick_bodies(before, context.word("what"), operation_name(operation));
    if (!chosen) return pass_on(chosen);
    return combine_picked(operation, before, context, *chosen);
}

} // namespace lp
