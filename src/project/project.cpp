#include "project/project.h"
#include "base/quantity.h"
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

Expected<ResolvedFit> resolve_fit_field(const Project& project, const std::string& text,
                                        const ContactSituation& situation, const ParameterValues& values) {
    if (const NamedFit* fit = find_fit(project.fits, text))
        return resolve_fit(fit_gap_of(*fit, project.material), false, situation, project.printer);
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
        if (!length) return tl::make_unexpected(length.error());
        at[k] = *length;
    }
    result.translate(at);
    for (int k = 2; k >= 0; --k) { // the last to be multiplied is the first to act: x, then y, then z
        auto angle = evaluate_expression(place.turn[size_t(k)], QuantityKind::Angle, values);
        if (!angle) return tl::make_unexpected(angle.error());
        result.rotate(Eigen::AngleAxisd(radians(*angle), Vec3::Unit(k)));
    }
    return result;
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

void each_expression(Step& step, const StepKind& kind, bool change,
                     const std::function<void(const std::string& where, std::string& text)>& call) {
    for (const StepField& field : kind.fields) {
        std::string text = field_text(step, field), before = text;
        if (is_quantity(field.kind) || field.kind == FieldKind::Fit ||
            (field.kind == FieldKind::Regions && text[0] == '(')) {
            call(field.name, text);
        } else if (field.kind == FieldKind::Drawing) {
            auto drawing = drawing_from_text(text);
            if (!drawing) continue;
            Drawing old = *drawing;
            for (auto& [where, expression] : drawing_expressions(*drawing)) call(where, *expression);
            if (!(old == *drawing)) text = drawing_text(*drawing);
        }
        if (change && text != before) step.fields[field.name] = text;
    }
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
            Step step = part->steps[i];
            each_expression(step, *kind, false, [&](const std::string& where, std::string& text) {
                if (used_in(text)) uses.push_back(part->name + ", step " + std::to_string(i + 1) + ", " + where);
            });
        }
    return uses;
}

} // namespace lp
