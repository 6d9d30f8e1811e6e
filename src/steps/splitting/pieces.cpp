// Every loose piece of a body becomes a body of its own.
#include "base/text.h"
#include "shape/copies.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind pieces_kind() {
    StepKind kind;
    kind.id = "pieces";
    kind.title = "Name the pieces";
    kind.purpose = "Makes every loose piece of a body a body of its own, or keeps some of them.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"keep", FieldKind::Text, "all", 0, 0, {}, "all, or numbers by commas; 1 is the largest"}};
    kind.sentence = "Take {what} to pieces and keep {keep}";
    kind.group = StepGroup::Splitting;
    kind.synonyms = {"separate", "loose"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "take to pieces");
        if (!chosen) return pass_on(chosen);
        StepResult result{{}, {}, {}};
        for (size_t i = 0; i < before.size(); ++i) {
            if (std::find(chosen->begin(), chosen->end(), i) == chosen->end()) {
                result.bodies.push_back(before[i]);
                continue;
            }
            auto pieces = separate_pieces(before[i].body);
            if (!pieces) return pass_on(pieces);
            std::string keep = ",";
            keep.append(context.word("keep")).append(1, ',');
            std::erase(keep, ' ');
            bool first = true;
            for (size_t k = 0; k < pieces->size(); ++k) {
                std::string number = ",";
                number.append(std::to_string(k + 1)).append(1, ',');
                if (keep != ",all," && keep.find(number) == std::string::npos) continue;
                std::string base = before[i].name.empty() ? "piece" : before[i].name;
                result.bodies.push_back({first ? before[i].made_by : context.step_id,
                                         pieces->size() == 1 ? before[i].name : base + " " + std::to_string(k + 1),
                                         (*pieces)[k]});
                first = false;
            }
            if (first)
                return problem(ProblemCode::Range,
                               "The body has " + std::to_string(pieces->size()) + " pieces, none of them \"" +
                                   context.word("keep") + "\".",
                               "Write all, or numbers from 1 to " + std::to_string(pieces->size()) + ".");
        }
        return result;
    };
    return kind;
}

} // namespace lp
