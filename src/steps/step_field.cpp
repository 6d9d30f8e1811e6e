#include "steps/step_field.h"

namespace lp {

const char* field_kind_name(FieldKind kind) {
    static constexpr const char* names[] = {"length", "angle",   "count",    "number",  "choice",  "bodies", "part",
                                            "fit",    "file",    "text",     "plane",   "face",    "steps",  "faces",
                                            "edges",  "outline", "outlines", "regions", "drawing", "step"};
    return names[size_t(kind)];
}

bool is_quantity(FieldKind kind) {
    return kind <= FieldKind::Number;
}

QuantityKind quantity_of(FieldKind kind) {
    switch (kind) {
    case FieldKind::Length:
        return QuantityKind::Length;
    case FieldKind::Angle:
        return QuantityKind::Angle;
    case FieldKind::Count:
        return QuantityKind::Count;
    default:
        return QuantityKind::Number;
    }
}

StepField StepField::as(FieldRole its) const {
    StepField field = *this;
    field.role = its;
    return field;
}

StepField StepField::optional(const char* words) const {
    StepField field = *this;
    field.may_be_empty = true;
    field.when_empty = words;
    return field;
}

StepField StepField::filled_by(Filler its) const {
    StepField field = *this;
    field.filler = its;
    return field;
}

StepField StepField::of_part(const char* name) const {
    StepField field = *this;
    field.of = name;
    return field;
}

Expected<double> number_in_field(const StepField& field, const std::string& text, const ParameterValues& values) {
    auto number = evaluate_expression(text, quantity_of(field.kind), values);
    if (number && field.role == FieldRole::Radius && is_told_as_diameter(text)) *number /= 2;
    return number;
}

} // namespace lp
