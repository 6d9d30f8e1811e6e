#include "project/read_fields.h"
#include "base/quantity.h"
#include "base/text.h"
#include "project/references.h"
#include <algorithm>

namespace lp {
namespace {

/// Numbers and files that a step uses inside its drawings, regions and places belong to the key.
void add_uses(const Project& project, const ParameterValues& values, const Part& part, const Step& step,
              const StepKind& kind, Hasher& key) {
    each_expression(project, part, step, [&](const Expression& e) {
        const StepField* field = kind.field(e.place.name);
        if (!field || is_quantity(field->kind) || field->kind == FieldKind::Fit) return; // their values are in it
        for (const std::string& name : names_in_expression(e.text))
            if (auto value = values.find(name); value != values.end())
                key.add(std::string_view(name)).add(value->second.value);
    });
    each_reference(project, part, step, [&](const Reference& r) {
        if (r.to != RefersTo::File) return;
        auto file = project.imports.find(r.name);
        if (file != project.imports.end() && file->second) key.add(std::string_view(*file->second));
    });
}

/// What to say of a field that must be given and is not.
Problem not_said(const StepField& field) {
    switch (field.kind) {
    case FieldKind::Faces:
        return {ProblemCode::Missing, "No face is chosen.", "Click faces in the view."};
    case FieldKind::Edges:
        return {ProblemCode::Missing, "No edge is chosen.", "Click edges in the view."};
    case FieldKind::Face:
        return {ProblemCode::Missing, "It is not said which face is meant by \"" + as_words(field.name) + "\".",
                "Click the face in the sentence and choose."};
    case FieldKind::Part:
        return {ProblemCode::Missing,
                field.role == FieldRole::GoesIn ? "It is not said which part to cut with."
                                                : "It is not said which part.",
                "Click it in the sentence and choose."};
    default:
        return {ProblemCode::Missing, "It is not said what \"" + as_words(field.name) + "\" is.",
                "Click it in the sentence and choose."};
    }
}

std::optional<Problem> check_word(const StepField& field, const std::string& text) {
    if (text.empty() && !field.may_be_empty) return not_said(field);
    if (field.kind == FieldKind::Choice && std::count(field.choices.begin(), field.choices.end(), text) == 0)
        return Problem{ProblemCode::Wording, "\"" + text + "\" is no choice for \"" + as_words(field.name) + "\".",
                       "Use one of: " + joined(field.choices) + "."};
    return std::nullopt;
}

std::optional<Problem> check_limits(const StepField& field, double value) {
    if (field.low >= field.high || (value >= field.low && value <= field.high)) return std::nullopt;
    QuantityKind kind = quantity_of(field.kind);
    return Problem{ProblemCode::Range,
                   "The " + as_words(field.name) +
                       (field.kind == FieldKind::Count && field.name.ends_with("s") ? " are " : " is ") +
                       format_quantity(value, kind, 6) + ".",
                   "It must lie between " + format_quantity(field.low, kind) + " and " +
                       format_quantity(field.high, kind) + "."};
}

} // namespace

std::optional<Problem> read_fields(const Project& project, const ParameterValues& values, const Part& part,
                                   const Step& step, const StepKind& kind, StepContext& context, Hasher& key) {
    for (const StepField& field : kind.fields) {
        FieldValue value = field_value(step, field);
        const std::string& text = value.text();
        key.add(field.name);
        if (!is_quantity(field.kind)) {
            if (auto wrong = check_word(field, text)) return wrong;
            key.add(std::string_view(text));
            context.words[field.name] = std::move(value);
            continue;
        }
        auto number = number_in_field(field, text, values);
        if (!number) return number.error();
        if (auto wrong = check_limits(field, *number)) return wrong;
        context.numbers[field.name] = *number;
        key.add(*number);
    }
    add_uses(project, values, part, step, kind, key);
    return std::nullopt;
}

} // namespace lp
