// Edits of named numbers, of fits, and of the numbers of cards.
#include "base/quantity.h"
#include "project/edit_applier.h"
#include "project/references.h"
#include <algorithm>

namespace lp {

void Applier::on(const SetParameter& e) {
    if (auto wrong = check_parameter_name(e.name)) return fail(*wrong);
    auto found = std::find_if(project_.parameters.begin(), project_.parameters.end(),
                              [&](const Parameter& p) { return p.name == e.name; });
    if (found == project_.parameters.end()) {
        project_.parameters.push_back(
            {e.name, e.expression, e.kind.value_or(QuantityKind::Length), e.note.value_or("")});
    } else {
        if (found->expression != e.expression) found->readings.follows = Follows::None; // it is as typed now
        found->expression = e.expression;
        if (e.kind) found->kind = *e.kind;
        if (e.note) found->note = *e.note;
    }
    sentence_ = e.name + " = " + e.expression;
    if (auto numbers = values(); !numbers) fail(numbers.error());
}

void Applier::on(const SetReadings& e) {
    auto found = std::find_if(project_.parameters.begin(), project_.parameters.end(),
                              [&](const Parameter& p) { return p.name == e.name; });
    if (found == project_.parameters.end()) return fail(no_such_number(e.name));
    if (found->kind != QuantityKind::Length && found->kind != QuantityKind::Angle)
        return fail(
            {ProblemCode::Wording, "Only lengths and angles are measured.", "Give \"" + e.name + "\" another unit."});
    if (auto wrong = check_readings(e.readings)) return fail(*wrong);
    found->readings = e.readings;
    const char* unit = found->kind == QuantityKind::Length ? " mm" : " deg";
    if (auto number = number_of(e.readings)) found->expression = format_number(*number, 4) + unit;
    sentence_ = e.name + ": " + counted(e.readings.values.size(), "reading", "readings");
    if (e.readings.follows != Follows::None && !e.readings.values.empty())
        sentence_ += std::string(", ") + follows_name(e.readings.follows) + " " + found->expression;
    if (auto numbers = values(); !numbers) fail(numbers.error());
}

void Applier::on(const RenameParameter& e) {
    if (std::none_of(project_.parameters.begin(), project_.parameters.end(),
                     [&](const Parameter& p) { return p.name == e.from; }))
        return fail(no_such_number(e.from));
    if (e.from == e.to) return;
    if (auto wrong = check_parameter_name(e.to)) return fail(*wrong);
    for (const Parameter& p : project_.parameters)
        if (p.name == e.to)
            return fail(
                {ProblemCode::Wording, "There is already a number called \"" + e.to + "\".", "Choose another name."});
    project_ = with_expressions(
        project_, [&](const Expression& one) -> NewText { return rename_in_expression(one.text, e.from, e.to); });
    project_ = with_references(project_, [&](const Reference& r) -> NewText {
        return r.to == RefersTo::Parameter && r.name == e.from ? NewText(e.to) : std::nullopt;
    });
    for (Parameter& p : project_.parameters)
        if (p.name == e.from) p.name = e.to;
    sentence_ = e.from + " is now called " + e.to;
}

void Applier::on(const RemoveParameter& e) {
    auto uses = uses_of_parameter(project_, e.name);
    if (!uses.empty()) {
        std::string where;
        for (const std::string& use : uses) where += (where.empty() ? "" : "; ") + use;
        return fail({ProblemCode::Range, e.name + " is in use: " + where + ".", "Give those another number first."});
    }
    auto gone = std::remove_if(project_.parameters.begin(), project_.parameters.end(),
                               [&](const Parameter& p) { return p.name == e.name; });
    if (gone == project_.parameters.end()) return fail(no_such_number(e.name));
    project_.parameters.erase(gone, project_.parameters.end());
    sentence_ = "Removed " + e.name;
}

void Applier::on(const SetFitGap& e) {
    if (!(e.gap_mm >= -2 && e.gap_mm <= 20))
        return fail({ProblemCode::Range,
                     "A gap is -2 to 20 mm a face; below 0 the fit wants overlap.",
                     "Type such a number.",
                     {},
                     {}});
    for (NamedFit& fit : project_.fits)
        if (fit.name == e.name) {
            fit.gap_mm = e.gap_mm;
            fit.source = "typed here";
            sentence_ = "Fit " + e.name + " to " + format_quantity(e.gap_mm, QuantityKind::Length);
            return;
        }
    fail(no_such("fit", e.name, names_of(project_.fits, &NamedFit::name)));
}

void Applier::on(const SetNumber& e) {
    auto now = number_now(project_, e.key);
    if (!now) return fail(now.error());
    auto values = values_for_numbers(project_);
    auto number = evaluate_expression(e.typed, now->kind, values ? *values : ParameterValues());
    if (!number) return fail(number.error());
    auto edit = edit_of_number(project_, e.key, *number);
    if (!edit) return fail(edit.error());
    if (apply(*edit)) return;
    const std::string words = number_words(project_, e.key);
    sentence_ = (words.starts_with("the ") ? "Changed " : "Changed the ") + words;
    if (is_plain_number(e.typed))
        project_.formulas.erase(e.key);
    else
        project_.formulas[e.key] = e.typed;
}

} // namespace lp
