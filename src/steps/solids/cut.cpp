// Takes bodies away from another.
#include "steps/pick_bodies.h"
#include "steps/solids/combine_bodies.h"

namespace lp {

StepKind cut_kind() {
    StepKind kind;
    kind.id = "cut";
    kind.title = "Cut";
    kind.purpose = "Takes bodies away from another.";
    kind.fields = {{"from", FieldKind::Bodies, "", 0, 0, {}, "the body that stays"},
                   {"what", FieldKind::Bodies, "", 0, 0, {}, "the bodies that are taken away"}};
    kind.sentence = "Cut {what} from {from}";
    kind.group = StepGroup::Solids;
    kind.synonyms = {"subtract", "difference"};
    kind.takes_away = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (context.growth_mm != 0)
            return problem(ProblemCode::Geometry, "What was cut away by bodies cannot be remade larger by its numbers.",
                           "Grow it as a whole.");
        auto target = pick_bodies(before, context.word("from"), "cut from");
        if (!target) return pass_on(target);
        if (target->size() != 1) return problem(ProblemCode::Wording, "A cut needs one body to cut from.", "Name one.");
        auto tools = pick_bodies(before, context.word("what"), "cut");
        if (!tools) return pass_on(tools);
        std::vector<size_t> operands{target->front()};
        for (size_t i : with_copies(before, *tools))
            if (i != target->front()) operands.push_back(i);
        return combine_picked(Operation::Cut, before, context, operands);
    };
    return kind;
}

} // namespace lp
