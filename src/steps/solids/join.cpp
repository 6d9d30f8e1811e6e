// Makes one body of many.
#include "steps/solids/combine_bodies.h"

namespace lp {

StepKind join_kind() {
    StepKind kind;
    kind.id = "join";
    kind.title = "Join";
    kind.purpose = "Makes one body of many.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"}};
    kind.sentence = "Join {what}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"unite", "union", "add"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        return combine_alike(Operation::Join, before, context);
    };
    return kind;
}

} // namespace lp
