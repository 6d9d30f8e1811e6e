#include "project/hardware_list.h"
#include "base/text.h"
#include "hardware/piece.h"
#include <map>

namespace lp {
namespace {

/// How often a step is there, with what repeats it: the numbers of copies multiply.
size_t copies_of(const Evaluation& evaluation, const Part& part, const PartResult& made, const Step& step) {
    size_t copies = 1;
    for (size_t i = 0; i < part.steps.size(); ++i) {
        const Step& later = part.steps[i];
        const StepKind* kind = find_step_kind(later.kind);
        const StepField* count = kind ? kind->field_as(FieldRole::Count) : nullptr;
        const StepField* steps = kind ? kind->field_of(FieldKind::Steps) : nullptr;
        if (!count || !steps || !later.on || i >= made.steps.size() || !made.steps[i].ok) continue;
        bool repeats = false;
        for (const std::string& name : listed(field_text(later, *steps), ',')) {
            const Step* named = step_called(part, name);
            repeats = repeats || (named && named->id == step.id);
        }
        if (!repeats) continue;
        const auto number = number_in_field(*count, field_text(later, *count), evaluation.values);
        if (number && *number >= 1) copies *= size_t(std::lround(*number));
    }
    return copies;
}

/// What a sentence names, and how the joint it makes is held.
std::vector<std::string> pieces_of(const Step& step, const StepKind& kind) {
    std::vector<std::string> names;
    for (const char* field : {"piece", "screw"})
        if (const StepField* its = kind.field(field)) names.push_back(field_text(step, *its));
    if (const StepField* held = kind.field("held_by"); held && !names.empty())
        if (const auto screw = piece_called(names[0])) {
            if (const std::string holder = holder_words(*screw, field_text(step, *held)); !holder.empty())
                names.push_back(holder);
        }
    return names;
}

} // namespace

std::vector<HardwareCount> hardware_list(const Evaluation& evaluation) {
    struct Both {
        size_t stands = 0, holes = 0;
        bool sure = true;
    };
    std::map<std::string, Both> all;
    for (const PartPtr& part : evaluation.project->parts) {
        const PartResult* made = evaluation.part(part->id);
        for (size_t i = 0; made && i < part->steps.size() && i < made->steps.size(); ++i) {
            const Step& step = part->steps[i];
            const StepKind* kind = find_step_kind(step.kind);
            const bool bought = step.kind == "bought";
            if (!kind || !step.on || !made->steps[i].ok ||
                (!bought && step.kind != "hole_for" && step.kind != "screw_joint"))
                continue;
            const size_t count = copies_of(evaluation, *part, *made, step) * size_t(std::max(part->quantity, 0));
            for (const std::string& name : pieces_of(step, *kind)) {
                const auto piece = piece_called(name);
                if (!piece) continue;
                Both& both = all[piece->name];
                (bought ? both.stands : both.holes) += count;
                both.sure = piece->sure;
            }
        }
    }
    std::vector<HardwareCount> list;
    for (const auto& [name, both] : all)
        if (const size_t count = std::max(both.stands, both.holes)) list.push_back({name, count, both.sure});
    return list;
}

} // namespace lp
