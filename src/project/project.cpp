#include "project/project.h"
#include <algorithm>

namespace lp {

PartPtr Project::part(uint64_t id) const {
    for (const PartPtr& p : parts)
        if (p->id == id) return p;
    return nullptr;
}

PartPtr Project::part_named(const std::string& wanted) const {
    for (const PartPtr& p : parts)
        if (p->name == wanted) return p;
    return nullptr;
}

const Step* Project::step(uint64_t part_id, uint64_t step_id) const {
    for (const PartPtr& p : parts)
        if (p->id == part_id)
            for (const Step& s : p->steps)
                if (s.id == step_id) return &s;
    return nullptr;
}

std::string field_text(const Step& step, const StepField& field) {
    auto found = step.fields.find(field.name);
    return found == step.fields.end() ? field.standard : found->second;
}

Expected<ResolvedFit> resolve_fit_field(const Project& project, const std::string& text, const std::string& tool_part,
                                        const ParameterValues& values) {
    PartPtr tool = project.part_named(tool_part);
    bool printed = tool && !tool->stand_in;
    if (const NamedFit* fit = find_fit(project.fits, text))
        return resolve_fit(fit->gap_mm, false, printed, project.printer);
    auto typed = evaluate_expression(text, QuantityKind::Length, values);
    if (!typed) {
        std::string names;
        for (const NamedFit& fit : project.fits) names += (names.empty() ? "" : ", ") + fit.name;
        return problem(ProblemCode::Missing, "There is no fit called \"" + text + "\".",
                       "Use " + names + ", or a gap such as 0.3 mm.");
    }
    if (*typed < 0 || *typed > 20)
        return problem(ProblemCode::Range,
                       "A gap of " + format_quantity(*typed, QuantityKind::Length) + " a face is not possible here.",
                       "Use 0 to 20 mm.");
    return resolve_fit(*typed, true, printed, project.printer);
}

std::vector<std::string> uses_of_parameter(const Project& project, const std::string& name) {
    std::vector<std::string> uses;
    auto used_in = [&](const std::string& text) {
        auto names = names_in_expression(text);
        return std::find(names.begin(), names.end(), name) != names.end();
    };
    for (const Parameter& p : project.parameters)
        if (used_in(p.expression)) uses.push_back("parameter " + p.name);
    for (const PartPtr& part : project.parts)
        for (size_t i = 0; i < part->steps.size(); ++i) {
            const StepKind* kind = find_step_kind(part->steps[i].kind);
            if (!kind) continue;
            for (const StepField& field : kind->fields)
                if ((is_quantity(field.kind) || field.kind == FieldKind::Fit) &&
                    used_in(field_text(part->steps[i], field)))
                    uses.push_back(part->name + ", step " + std::to_string(i + 1) + ", " + field.name);
        }
    return uses;
}

} // namespace lp
