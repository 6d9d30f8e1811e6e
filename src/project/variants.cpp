// Variants of a part: the same steps, other numbers.
#include "project/references.h"

namespace lp {
namespace {

/// What a variant keeps of a step: what can be another number with the same geometry asked for.
bool kept_in_variants(const StepField& field) {
    return is_quantity(field.kind) || field.kind == FieldKind::Choice || field.kind == FieldKind::Fit;
}

std::string key_of(const Step& step, const StepField& field) {
    return to_text(step.id) + "." + field.name;
}

} // namespace

std::map<std::string, std::string> numbers_of_part(const Project& project, const Part& part) {
    std::map<std::string, std::string> numbers;
    std::vector<std::string> names; // of the project's numbers that are used, and those they use in turn
    for (const Step& step : part.steps) {
        const StepKind* kind = find_step_kind(step.kind);
        if (!kind) continue;
        for (const StepField& field : kind->fields)
            if (kept_in_variants(field)) numbers[key_of(step, field)] = field_text(step, field);
        each_expression(project, part, step, [&](const Expression& e) {
            for (const std::string& name : names_in_expression(e.text)) names.push_back(name);
        });
    }
    for (size_t i = 0; i < names.size(); ++i)
        for (const Parameter& p : project.parameters)
            if (p.name == names[i] && numbers.emplace(p.name, p.expression).second)
                for (const std::string& name : names_in_expression(p.expression)) names.push_back(name);
    return numbers;
}

Project with_variant(const Project& project, PartId part, const Variant& variant) {
    Project next = project;
    for (Parameter& p : next.parameters)
        if (auto own = variant.numbers.find(p.name); own != variant.numbers.end()) p.expression = own->second;
    for (PartPtr& its : next.parts) {
        if (its->id != part) continue;
        auto changed = std::make_shared<Part>(*its);
        for (Step& step : changed->steps)
            if (const StepKind* kind = find_step_kind(step.kind))
                for (const StepField& field : kind->fields)
                    if (auto own = variant.numbers.find(key_of(step, field)); own != variant.numbers.end())
                        step.fields[field.name] = own->second;
        its = changed;
    }
    return next;
}

} // namespace lp
