// What typed words mean as edits.
#include "base/text.h"
#include "project/edit.h"
#include <algorithm>

namespace lp {

Edit edit_from_typed(const Project& project, PartId part, StepId step, const std::string& field,
                     const std::string& typed) {
    size_t equals = typed.find('=');
    if (equals != std::string::npos && typed.find('=', equals + 1) == std::string::npos) {
        std::string name = trimmed(typed.substr(0, equals)), expression = trimmed(typed.substr(equals + 1));
        if (!check_parameter_name(name)) {
            QuantityKind kind = QuantityKind::Length;
            if (const Step* s = project.step(part, step))
                if (const StepKind* k = find_step_kind(s->kind))
                    if (const StepField* f = k->field(field); f && is_quantity(f->kind)) kind = quantity_of(f->kind);
            bool known = std::any_of(project.parameters.begin(), project.parameters.end(),
                                     [&](const Parameter& p) { return p.name == name; });
            Edit edit;
            edit.parts.push_back(SetParameter{name, expression, known ? std::nullopt : std::optional(kind), {}});
            edit.parts.push_back(SetField{part, step, field, name});
            return edit;
        }
    }
    return SetField{part, step, field, typed};
}

std::string free_part_name(const Project& project, const std::string& wanted) {
    if (!project.part_named(wanted)) return wanted;
    for (int n = 2;; ++n)
        if (std::string name = wanted + " " + std::to_string(n); !project.part_named(name)) return name;
}

} // namespace lp
