#include "project/versions.h"
#include "base/duration.h"
#include "base/quantity.h"
#include "mesh/combine.h"
#include "project/project_json.h"
#include "project/typed_numbers.h"
#include <nlohmann/json.hpp>

namespace lp {

Expected<ProjectPtr> version_of(const Project& project, const std::string& name) {
    for (const KeptVersion& version : project.versions) {
        if (version.name != name) continue;
        auto read = project_from_text(*version.text);
        if (!read) return pass_on(read);
        for (auto& [file, bytes] : read->imports)
            if (auto found = project.imports.find(file); found != project.imports.end()) bytes = found->second;
        read->versions.clear();
        return std::make_shared<const Project>(std::move(*read));
    }
    return problem(ProblemCode::Missing, "There is no version called \"" + name + "\".", "It may have been dropped.");
}

namespace {

std::string key_of(PartId part, StepId step, const std::string& field) {
    return std::to_string(part.value) + "." + std::to_string(step.value) + "." + field;
}

std::string spaced(std::string text) {
    std::replace(text.begin(), text.end(), '_', ' ');
    for (const char* unit : {" mm", " deg", " w"})
        if (text.size() > strlen(unit) && text.compare(text.size() - strlen(unit), strlen(unit), unit) == 0)
            text.resize(text.size() - strlen(unit));
    return text;
}

/// What was typed, and what it comes to by the numbers of its time; a number that was typed with its unit.
std::string told(const std::string& typed, QuantityKind kind, const Expected<ParameterValues>& values) {
    const auto number = evaluate_expression(typed, kind, values.value_or(ParameterValues()));
    if (!number) return typed;
    const std::string words = format_quantity(*number, kind);
    const bool worked_out = typed.find_first_of("+-*/^(", 1) != std::string::npos || // of numbers alone, or of others
                            !evaluate_expression(typed, kind, ParameterValues());
    return worked_out ? typed + " = " + words : words;
}

/// Fields that a person reads as a number, a choice or a name; drawings and picked faces are no numbers.
bool is_told(const StepField& field) {
    return is_quantity(field.kind) || field.kind == FieldKind::Choice || field.kind == FieldKind::Fit ||
           field.kind == FieldKind::Count;
}

/// The numbers of two projects, told apart.
class Differences {
  public:
    Differences(const Project& before, const Project& now)
        : before_(before), now_(now), values_before_(project_values(before)), values_now_(project_values(now)) {
        parameters();
        for (const PartPtr& part : now.parts)
            if (const PartPtr was = before.part(part->id)) fields(*was, *part);
        card("printer", "printer card", before.printer, now.printer);
        card("material", "material card", before.material, now.material);
        for (const NamedFit& fit : now.fits)
            if (const NamedFit* was = find_fit(before.fits, fit.name))
                add("fit " + fit.name, "fit " + fit.name, format_number(was->gap_mm) + " mm",
                    format_number(fit.gap_mm) + " mm", QuantityKind::Length);
    }
    std::vector<NumberDifference> take() { return std::move(all_); }

  private:
    /// `kind`: of a number; none for words.
    void add(std::string key, std::string words, std::string before, std::string now,
             std::optional<QuantityKind> kind) {
        if (before == now) return;
        NumberDifference one{std::move(key), std::move(words), std::move(before), std::move(now), {}, {}};
        one.before_told = kind && !one.before.empty() ? told(one.before, *kind, values_before_) : one.before;
        one.now_told = kind && !one.now.empty() ? told(one.now, *kind, values_now_) : one.now;
        all_.push_back(std::move(one));
    }

    void parameters() {
        auto named = [](const Project& project, const std::string& name) {
            const auto found = std::find_if(project.parameters.begin(), project.parameters.end(),
                                            [&](const Parameter& p) { return p.name == name; });
            return found == project.parameters.end() ? nullptr : &*found;
        };
        for (const Parameter& p : now_.parameters) {
            const Parameter* was = named(before_, p.name);
            add(p.name, p.name, was ? was->expression : "", p.expression, p.kind);
        }
        for (const Parameter& p : before_.parameters)
            if (!named(now_, p.name)) add(p.name, p.name, p.expression, "", p.kind);
    }

    void fields(const Part& before, const Part& now) {
        for (size_t i = 0; i < now.steps.size(); ++i) {
            const Step& step = now.steps[i];
            const Step* was = before.step(step.id);
            const StepKind* kind = find_step_kind(step.kind);
            if (!was || !kind || was->kind != step.kind) continue;
            for (const StepField& field : kind->fields)
                if (is_told(field))
                    add(key_of(now.id, step.id, field.name),
                        now.name + ", step " + std::to_string(i + 1) + ", " + spaced(field.name),
                        field_text(*was, field), field_text(step, field),
                        is_quantity(field.kind) ? std::optional(quantity_of(field.kind)) : std::nullopt);
        }
        add(std::to_string(now.id.value) + ".quantity", now.name + ", pieces", std::to_string(before.quantity),
            std::to_string(now.quantity), QuantityKind::Count);
    }

    template <class Card>
    void card(const std::string& key, const std::string& words, const Card& before, const Card& now) {
        const nlohmann::json a = before, b = now;
        for (const auto& [name, value] : b.items()) {
            if (!value.is_number() || !a.contains(name) || !a[name].is_number()) continue;
            const auto number = number_now(now_, key + " " + name);
            add(key + " " + name, words + ", " + spaced(name), format_number(a[name].template get<double>()),
                format_number(value.template get<double>()), number ? std::optional(number->kind) : std::nullopt);
        }
    }

    const Project &before_, &now_;
    const Expected<ParameterValues> values_before_, values_now_;
    std::vector<NumberDifference> all_;
};

} // namespace

std::vector<NumberDifference> number_differences(const Project& before, const Project& now) {
    return Differences(before, now).take();
}

Expected<Project> with_taken_over(const Project& project, const std::string& version, const std::string& key) {
    auto before = version_of(project, version);
    if (!before) return pass_on(before);
    const auto all = number_differences(**before, project);
    const auto found = std::find_if(all.begin(), all.end(), [&](const NumberDifference& d) { return d.key == key; });
    if (found == all.end()) return problem(ProblemCode::Missing, "That number is as it was in " + version + ".", "");
    if (!found->can_be_taken())
        return problem(ProblemCode::Missing, found->words + " is not there in both.", "Add or remove it by hand.");
    auto edited = [&](const Edit& edit) -> Expected<Project> {
        auto next = apply_edit(project, edit);
        if (!next) return pass_on(next);
        return *next->project;
    };
    if (key.rfind("printer ", 0) == 0 || key.rfind("material ", 0) == 0 || key.rfind("fit ", 0) == 0)
        return edited(SetNumber{key, found->before});
    for (const Parameter& p : project.parameters)
        if (p.name == key) return edited(SetParameter{key, found->before, {}, {}});
    const size_t dot = key.find('.'), second = key.find('.', dot + 1);
    const PartId part(std::stoull(key));
    if (second == std::string::npos) return edited(SetQuantity{part, std::stoi(found->before)});
    return edited(SetField{part, StepId(std::stoull(key.substr(dot + 1))), key.substr(second + 1), found->before});
}

bool PartDifference::same() const {
    return before && now && !added && !removed && added_mm3 && removed_mm3;
}

std::string PartDifference::says() const {
    auto cm3 = [](double mm3) { return format_fixed(mm3 / 1000, 2); };
    if (!before) return "new: " + cm3(now->volume_mm3) + " cm³";
    if (!now) return "no more there: " + cm3(before->volume_mm3) + " cm³";
    if (same()) return "as it was";
    std::string text = cm3(before->volume_mm3) + " to " + cm3(now->volume_mm3) + " cm³";
    if (added_mm3 && removed_mm3) text += ": " + cm3(*added_mm3) + " added, " + cm3(*removed_mm3) + " taken away";
    if (before->time_s > 0 && now->time_s > 0)
        text += "; " + format_duration(before->time_s) + " to " + format_duration(now->time_s);
    if (before->mass_g > 0 && now->mass_g > 0)
        text += "; " + format_fixed(before->mass_g, 1) + " to " + format_fixed(now->mass_g, 1) + " g";
    return text;
}

namespace {

/// What the first has that the second has not; nothing where nothing is left.
std::optional<TriMesh> less(const TriMesh& a, const TriMesh& b, const Task& task, bool& told) {
    auto rest = combine_meshes(Operation::Cut, {a, b}, task);
    if (rest) return std::move(*rest);
    if (rest.error().code != ProblemCode::NothingLeft) told = false;
    return std::nullopt;
}

void tell_bodies(const PartResult& before, const PartResult& now, PartDifference& difference, const Task& task) {
    if (!before.mesh || !now.mesh) return;
    difference.added_mm3 = difference.removed_mm3 = 0;
    if (before.key == now.key) return;
    bool told = true;
    // Bodies of one part may touch: as one they would cross each other.
    const auto was = united_with_itself(*before.mesh, task), is = united_with_itself(*now.mesh, task);
    if (!was || !is) {
        difference.added_mm3.reset();
        difference.removed_mm3.reset();
        return;
    }
    constexpr double rounding_mm3 = 1e-3;
    auto take = [&](std::optional<TriMesh> mesh, std::optional<double>& volume, std::shared_ptr<const TriMesh>& body) {
        if (!mesh) return;
        volume = mass_properties(*mesh).volume_mm3;
        if (*volume > rounding_mm3) body = std::make_shared<const TriMesh>(std::move(*mesh));
    };
    take(less(*is, *was, task, told), difference.added_mm3, difference.added);
    take(less(*was, *is, task, told), difference.removed_mm3, difference.removed);
    if (!told) {
        difference.added_mm3.reset();
        difference.removed_mm3.reset();
    }
}

int steps_more(const Part& before, const Part& now) {
    auto fresh = [](const Part& a, const Part& b) {
        return int(std::count_if(a.steps.begin(), a.steps.end(), [&](const Step& s) { return !b.step(s.id); }));
    };
    return fresh(now, before) - fresh(before, now);
}

} // namespace

Expected<std::vector<PartDifference>> part_differences(Evaluator& evaluator, const ProjectPtr& before,
                                                       const ProjectPtr& now, const Task& task) {
    task.tell("Making the version", 0.1);
    const auto was = evaluator.evaluate(before, task), is = evaluator.evaluate(now, task);
    if (!was || !is) return pass_on(!was ? was.error() : is.error());
    std::vector<PartDifference> all;
    auto tell = [&](PartId id, const std::string& name) {
        PartDifference difference;
        difference.part = id;
        difference.name = name;
        const PartResult *old = was->part(id), *made = is->part(id);
        if (old) difference.before = figures_of(*was, id, task);
        if (made) difference.now = figures_of(*is, id, task);
        if (old && made) {
            tell_bodies(*old, *made, difference, task);
            difference.steps_more = steps_more(*before->part(id), *now->part(id));
        }
        all.push_back(std::move(difference));
    };
    for (const PartPtr& part : now->parts) {
        if (task.stopped()) return cancelled();
        task.tell("Comparing " + part->name, 0.2 + 0.8 * double(all.size()) / double(now->parts.size() + 1));
        tell(part->id, part->name);
    }
    for (const PartPtr& part : before->parts)
        if (!now->part(part->id)) tell(part->id, part->name);
    if (task.stopped()) return cancelled();
    return all;
}

} // namespace lp
