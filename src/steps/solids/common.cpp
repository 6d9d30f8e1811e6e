// Keeps what all the bodies fill.
#include "steps/solids/combine_bodies.h"

namespace lp {

StepKind common_kind() {
    StepKind kind;
    kind.id = "common";
    kind.title = "Keep common";
    kind.purpose = "Keeps what all the bodies fill.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"}};
    kind.sentence = "Keep what {what} have in common";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"intersect", "intersection"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) {
        return combine_alike(Operation::Common, before, context);
    };
    return kind;
}

} // namespace lp
