#include "project/project.h"
#include "base/quantity.h"
#include <algorithm>

namespace lp {

PartPtr Project::part(PartId id) const {
    for (const PartPtr& p : parts)
        if (p->id == id) return p;
    return nullptr;
}

PartPtr Project::part_named(const std::string& wanted) const {
    for (const PartPtr& p : parts)
        if (p->name == wanted) return p;
    return nullptr;
}

const Step* Project::step(PartId part_id, StepId step_id) const {
    PartPtr its = part(part_id);
    return its ? its->step(step_id) : nullptr;
}

const Step* Part::step(StepId wanted) const {
    for (const Step& s : steps)
        if (s.id == wanted) return &s;
    return nullptr;
}

std::string material_words(const Project& project) {
    std::vector<std::string> names;
    for (const PartPtr& part : project.parts)
        if (const std::string& name = material_of(project, *part).name;
            !part->stand_in && part->quantity > 0 && std::find(names.begin(), names.end(), name) == names.end())
            names.push_back(name);
    if (names.empty()) return project.material.name;
    std::string words = names[0];
    for (size_t i = 1; i < names.size(); ++i) words += (i + 1 == names.size() ? " and " : ", ") + names[i];
    return words;
}

const MaterialCard& material_of(const Project& project, const Part& part) {
    return part.material ? *part.material : project.material;
}

const Step* step_called(const Part& part, const std::string& text) {
    for (const Step& s : part.steps)
        if (!text.empty() && s.name == text) return &s;
    for (const Step& s : part.steps)
        if (to_text(s.id) == text) return &s;
    return nullptr;
}

Step step_of_kind(const std::string& kind, const std::map<std::string, std::string>& fields, const std::string& name) {
    Step step;
    step.kind = kind;
    step.name = name;
    step.fields = {fields.begin(), fields.end()};
    return step;
}

FieldValue field_value(const Step& step, const StepField& field) {
    auto found = step.fields.find(field.name);
    return found == step.fields.end() ? FieldValue(field.standard) : found->second;
}

std::string field_text(const Step& step, const StepField& field) {
    auto found = step.fields.find(field.name);
    return found == step.fields.end() ? field.standard : found->second.text();
}

bool draws(const Step& step) {
    const StepKind* kind = find_step_kind(step.kind);
    return kind && kind->draws();
}

Expected<Drawing> drawing_of(const Step& step) {
    const StepKind* kind = find_step_kind(step.kind);
    const StepField* field = kind ? kind->field_of(FieldKind::Drawing) : nullptr;
    if (!field) return problem(ProblemCode::Missing, "That step draws no outline.", "Choose another.");
    return field_value(step, *field).drawing();
}

Expected<ResolvedFit> resolve_fit_field(const Project& project, const std::string& text,
                                        const ContactSituation& situation, const ParameterValues& values,
                                        const std::vector<const Part*>& between) {
    if (const NamedFit* fit = find_fit(project.fits, text)) {
        std::optional<double> gap;
        for (const Part* part : between)
            if (part && !part->stand_in) {
                const double its = fit_gap_of(*fit, material_of(project, *part));
                gap = std::max(gap.value_or(its), its);
            }
        return resolve_fit(gap.value_or(fit_gap_of(*fit, project.material)), false, situation, project.printer);
    }
    auto typed = evaluate_expression(text, QuantityKind::Length, values);
    if (!typed) {
        std::string names;
        for (const NamedFit& fit : project.fits) names += (names.empty() ? "" : ", ") + fit.name;
        return problem(ProblemCode::Missing, "There is no fit called \"" + text + "\".",
                       "Use " + names + ", or a gap such as 0.3 mm.");
    }
    if (*typed < -2 || *typed > 20)
        return problem(ProblemCode::Range,
                       "A gap of " + format_quantity(*typed, QuantityKind::Length) + " a face is not possible here.",
                       "Use -2 mm (a press fit that wants overlap) to 20 mm.");
    return resolve_fit(*typed, true, situation, project.printer);
}

Expected<Transform> assembly_transform(const AssemblyPlace& place, const ParameterValues& values) {
    Transform result = Transform::Identity();
    Vec3 at;
    for (int k = 0; k < 3; ++k) {
        auto length = evaluate_expression(place.at[size_t(k)], QuantityKind::Length, values);
        if (!length) return pass_on(length);
        at[k] = *length;
    }
    result.translate(at);
    for (int k = 2; k >= 0; --k) { // the last to be multiplied is the first to act: x, then y, then z
        auto angle = evaluate_expression(place.turn[size_t(k)], QuantityKind::Angle, values);
        if (!angle) return pass_on(angle);
        result.rotate(Eigen::AngleAxisd(radians(*angle), Vec3::Unit(k)));
    }
    return result;
}

AssemblyPlace typed_place(const Transform& place) {
    const auto& m = place.linear();
    double x = 0, z = 0;
    const double y = std::asin(std::clamp(-m(2, 0), -1.0, 1.0));
    if (std::fabs(m(2, 0)) < 1 - 1e-12) {
        x = std::atan2(m(2, 1), m(2, 2));
        z = std::atan2(m(1, 0), m(0, 0));
    } else {
        z = std::atan2(-m(0, 1), m(1, 1));
    }
    AssemblyPlace typed;
    const double angles[] = {x, y, z};
    for (size_t k = 0; k < 3; ++k) {
        typed.at[k] = format_number(place.translation()[long(k)], 6) + " mm";
        typed.turn[k] = format_number(degrees(angles[k]), 6) + " deg";
    }
    return typed;
}

Expected<ParameterValues> project_values(const Project& project) {
    auto values = evaluate_parameters(project.parameters);
    // A fit used as a number is the gap a face between two printed parts; a parameter of that name goes before.
    std::vector<std::pair<std::string, double>> gaps;
    for (const NamedFit& fit : project.fits) {
        std::string name = fit.name;
        std::replace(name.begin(), name.end(), '-', '_');
        auto gap = resolve_fit(fit_gap_of(fit, project.material), false, {}, project.printer);
        if (!check_parameter_name(name)) gaps.emplace_back(name, gap.gap_mm);
    }
    if (!values && values.error().code == ProblemCode::Missing) { // a parameter may use a fit
        std::vector<Parameter> with = project.parameters;
        for (const auto& [name, gap] : gaps)
            if (std::none_of(with.begin(), with.end(), [&, n = name](const Parameter& p) { return p.name == n; }))
                with.push_back({name, format_number(gap, 9) + " mm", QuantityKind::Length, {}});
        return evaluate_parameters(with);
    }
    if (values)
        for (const auto& [name, gap] : gaps) values->emplace(name, ParameterValue{gap, QuantityKind::Length});
    return values;
}

} // namespace lp
