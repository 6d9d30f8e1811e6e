// Join, cut and keep-common of bodies that stand by themselves.
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {
namespace {

/// The first named body becomes the result; the others are used up.
Expected<StepResult> combine_picked(Operation operation, const std::vector<StepBody>& before,
                                    const StepContext& context, const std::vector<size_t>& operands) {
    if (operands.size() < 2)
        return problem(ProblemCode::Missing,
                       std::string("There is only one body to ") + operation_name(operation) + ".",
                       "Name two or more, or let a solid before this stand as a new body.");
    std::vector<Body> others;
    for (size_t k = 1; k < operands.size(); ++k) others.push_back(before[operands[k]].body);
    auto combined = combine(operation, before[operands[0]].body, others, context.task);
    if (!combined) return tl::make_unexpected(combined.error());
    StepResult result;
    result.note = combined->note;
    for (size_t i = 0; i < before.size(); ++i) {
        if (i == operands[0]) {
            StepBody made{before[i].made_by, before[i].name, combined->body, before[i].halos};
            for (size_t k = 1; k < operands.size() && operation == Operation::Join; ++k)
                made.halos.insert(made.halos.end(), before[operands[k]].halos.begin(), before[operands[k]].halos.end());
            result.bodies.push_back(std::move(made));
        } else if (std::find(operands.begin(), operands.end(), i) == operands.end())
            result.bodies.push_back(before[i]);
    }
    for (size_t i = 0; i < result.bodies.size(); ++i)
        if (result.bodies[i].made_by == before[operands[0]].made_by) tell_pieces(result, i, 1);
    return result;
}

StepKind group_kind(const char* id, const char* title, const char* purpose, const char* sentence, Operation operation) {
    StepKind kind;
    kind.id = id;
    kind.title = title;
    kind.purpose = purpose;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"}};
    kind.sentence = sentence;
    kind.evaluate = [operation](const std::vector<StepBody>& before,
                                const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), operation_name(operation));
        if (!chosen) return tl::make_unexpected(chosen.error());
        return combine_picked(operation, before, context, *chosen);
    };
    return kind;
}

} // namespace

StepKind join_kind() {
    return group_kind("join", "Join", "Makes one body of many.", "Join {what}", Operation::Join);
}

StepKind common_kind() {
    return group_kind("common", "Keep common", "Keeps what all the bodies fill.", "Keep what {what} have in common",
                      Operation::Common);
}

StepKind cut_kind() {
    StepKind kind;
    kind.id = "cut";
    kind.title = "Cut";
    kind.purpose = "Takes bodies away from another.";
    kind.fields = {{"from", FieldKind::Bodies, "", 0, 0, {}, "the body that stays"},
                   {"what", FieldKind::Bodies, "", 0, 0, {}, "the bodies that are taken away"}};
    kind.sentence = "Cut {what} from {from}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto target = pick_bodies(before, context.word("from"), "cut from");
        if (!target) return tl::make_unexpected(target.error());
        if (target->size() != 1) return problem(ProblemCode::Wording, "A cut needs one body to cut from.", "Name one.");
        auto tools = pick_bodies(before, context.word("what"), "cut");
        if (!tools) return tl::make_unexpected(tools.error());
        std::vector<size_t> operands{target->front()};
        for (size_t i : *tools)
            if (i != target->front()) operands.push_back(i);
        return combine_picked(Operation::Cut, before, context, operands);
    };
    return kind;
}

} // namespace lp
