#include "project/read_fields.h"
#include "base/quantity.h"
#include <algorithm>

namespace lp {
namespace {

/// The numbers and files a drawing uses belong to the key.
void add_names(const Project& project, const ParameterValues& values, FieldKind kind, const std::string& text,
               Hasher& key) {
    auto add = [&](const std::string& expression) {
        for (const std::string& name : names_in_expression(expression))
            if (auto value = values.find(name); value != values.end())
                key.add(std::string_view(name)).add(value->second.value);
    };
    if (kind == FieldKind::Regions) return add(text);
    auto drawing = drawing_from_text(text);
    if (!drawing) return;
    for (auto& [what, expression] : drawing_expressions(*drawing)) add(*expression);
    for (const Element& e : drawing->elements)
        if (e.kind == ElementKind::Import)
            if (auto file = project.imports.find(element_text(e, "file"));
                file != project.imports.end() && file->second)
                key.add(std::string_view(*file->second));
}

std::optional<Problem> check_word(const StepField& field, const std::string& text) {
    bool may_be_empty = field.kind == FieldKind::Text || field.kind == FieldKind::Face ||
                        field.kind == FieldKind::Faces || field.kind == FieldKind::Steps ||
                        field.kind == FieldKind::Outline || field.name == "after";
    if (text.empty() && !may_be_empty)
        return Problem{ProblemCode::Missing,
                       "It is not said " +
                           (field.kind == FieldKind::Part ? std::string("which part to cut with")
                                                          : "what \"" + field.name + "\" is") +
                           ".",
                       "Click it in the sentence and choose.",
                       {},
                       {}};
    if (field.kind == FieldKind::Choice &&
        std::find(field.choices.begin(), field.choices.end(), text) == field.choices.end())
        return Problem{ProblemCode::Wording,
                       "\"" + text + "\" is no choice for \"" + field.name + "\".",
                       "Choose another.",
                       {},
                       {}};
    return std::nullopt;
}

std::optional<Problem> check_limits(const StepField& field, double value) {
    if (field.low >= field.high || (value >= field.low && value <= field.high)) return std::nullopt;
    std::string words = field.name;
    std::replace(words.begin(), words.end(), '_', ' ');
    QuantityKind kind = quantity_of(field.kind);
    return Problem{ProblemCode::Range,
                   "The " + words + " is " + format_quantity(value, kind, 6) + ".",
                   "It must lie between " + format_quantity(field.low, kind) + " and " +
                       format_quantity(field.high, kind) + ".",
                   {},
                   {}};
}

} // namespace

std::optional<Problem> read_fields(const Project& project, const ParameterValues& values, const Step& step,
                                   const StepKind& kind, StepContext& context, Hasher& key) {
    for (const StepField& field : kind.fields) {
        std::string text = field_text(step, field);
        if (!is_quantity(field.kind)) {
            if (auto wrong = check_word(field, text)) return wrong;
            context.words[field.name] = text;
            key.add(field.name).add(std::string_view(text));
            if (field.kind == FieldKind::Drawing || field.kind == FieldKind::Regions)
                add_names(project, values, field.kind, text, key);
            continue;
        }
        auto value = evaluate_expression(text, quantity_of(field.kind), values);
        if (!value) return value.error();
        if (auto wrong = check_limits(field, *value)) return wrong;
        context.numbers[field.name] = *value;
        key.add(field.name).add(*value);
    }
    return std::nullopt;
}

} // namespace lp
