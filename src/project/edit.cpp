#include "project/edit_applier.h"

namespace lp {

std::optional<Problem> Applier::apply(const SingleEdit& edit) {
    problem_.reset();
    edit.visit([this](const auto& e) { this->on(e); });
    return problem_;
}

std::optional<Problem> Applier::follow(const Project& before) {
    auto moved = follow_formulas(before, project_);
    if (!moved) return moved.error();
    for (const FollowingNumber& number : *moved)
        if (auto wrong = apply(number.edit)) return in_number(number.words, *wrong);
    return std::nullopt;
}

std::optional<Problem> Applier::check_name(const std::string& name, const std::string& whose) {
    if (!name.empty() && name.size() <= 80) return std::nullopt;
    return Problem{ProblemCode::Wording, whose + " needs a name of 1 to 80 letters.", "Type one."};
}

void Applier::fill_fields(Step& step) {
    if (const StepKind* kind = find_step_kind(step.kind))
        for (const StepField& field : kind->fields) step.fields.try_emplace(field.name, field.standard);
}

Expected<Edited> apply_edit(const Project& project, const Edit& edit) {
    Applier applier(project);
    std::string sentence = edit.sentence;
    for (const SingleEdit& single : edit.parts) {
        if (auto failed = applier.apply(single)) return pass_on(*failed);
        if (sentence.empty()) sentence = applier.sentence();
    }
    if (auto failed = applier.follow(project)) return pass_on(*failed);
    return Edited{std::make_shared<const Project>(applier.take()), sentence};
}

} // namespace lp
