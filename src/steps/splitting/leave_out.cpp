// Takes bodies out of the part, because another part has them.
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {

StepKind leave_out_kind() {
    StepKind kind;
    kind.id = "leave_out";
    kind.title = "Leave out";
    kind.purpose = "Takes bodies out of the part, because another part has them.";
    kind.fields = {{"what", FieldKind::Bodies, "", 0, 0, {}, "bodies by step number or name"}};
    kind.sentence = "Leave out {what}";
    kind.group = StepGroup::Splitting;
    kind.synonyms = {"drop", "delete", "body"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "leave out");
        if (!chosen) return pass_on(chosen);
        StepResult result{{}, {}, {}};
        for (size_t i = 0; i < before.size(); ++i)
            if (std::find(chosen->begin(), chosen->end(), i) == chosen->end()) result.bodies.push_back(before[i]);
        if (result.bodies.empty()) result.note = "Nothing is left of this part.";
        return result;
    };
    return kind;
}

} // namespace lp
