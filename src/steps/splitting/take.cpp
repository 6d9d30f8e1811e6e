// Begins with bodies of another part.
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind take_kind() {
    StepKind kind;
    kind.id = "take";
    kind.title = "Take a body";
    kind.purpose = "Begins with bodies of another part, as they are there after one of its steps.";
    kind.fields = {
        StepField{"from", FieldKind::Part, "", 0, 0, {}, "the part"}.as(FieldRole::Source),
        StepField{"what", FieldKind::Bodies, "all", 0, 0, {}, "its bodies by name, or all"}.of_part("from"),
        StepField{"after", FieldKind::StepName, "", 0, 0, {}, "its step, by name or number; empty: as it ends up"}
            .optional("its end")
            .of_part("from")};
    kind.sentence = "Take {what} of {from}[ as after step {after}]";
    kind.group = StepGroup::Splitting;
    kind.synonyms = {"copy", "from", "part"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto bodies = context.bodies_of(context.word("from"), context.word("after"));
        if (!bodies) return pass_on(bodies);
        auto chosen = pick_bodies(*bodies, context.word("what"), "take");
        if (!chosen) return pass_on(chosen);
        StepResult result{before, {}, {}};
        for (size_t i : *chosen) {
            StepBody taken = (*bodies)[i];
            taken.made_by = context.step_id;
            if (!context.name.empty()) taken.name = context.name;
            result.bodies.push_back(taken);
        }
        return result;
    };
    return kind;
}

} // namespace lp
