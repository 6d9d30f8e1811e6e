// Edits of a part's steps.
#include "project/edit_applier.h"
#include "project/references.h"
#include <algorithm>
#include <set>

namespace lp {
namespace {

bool named_in(const Part& part, const std::string& name) {
    return std::any_of(part.steps.begin(), part.steps.end(), [&](const Step& s) { return s.name == name; });
}

} // namespace

void Applier::check_value(const StepField& field, const FieldValue& value) {
    const std::string& text = value.text();
    auto numbers = values();
    if (!numbers && (is_quantity(field.kind) || field.kind == FieldKind::Fit || field.kind == FieldKind::Drawing ||
                     field.kind == FieldKind::Regions))
        return fail(numbers.error());
    switch (field.kind) {
    case FieldKind::Choice:
        if (std::count(field.choices.begin(), field.choices.end(), text) == 0)
            fail({ProblemCode::Wording, "\"" + text + "\" is no choice here.",
                  "Use one of: " + joined(field.choices) + "."});
        break;
    case FieldKind::Fit:
        if (auto resolved = resolve_fit_field(project_, text, {}, *numbers); !resolved) fail(resolved.error());
        break;
    case FieldKind::Drawing:
        if (!value.drawing()) return fail(value.drawing().error());
        if (auto sizes = dimension_values(*value.drawing(), *numbers); !sizes) fail(sizes.error());
        break;
    case FieldKind::Regions:
        if (text == "all" || text == "every") return;
        if (auto choices = choices_from_text(text, *numbers); !choices) fail(choices.error());
        break;
    case FieldKind::Part:
        if (!project_.part_named(text))
            fail({ProblemCode::Missing, "There is no part called \"" + text + "\".", "Choose one of the shelf."});
        break;
    default:
        if (is_quantity(field.kind)) check_quantity(field, text, *numbers);
    }
}

void Applier::check_quantity(const StepField& field, const std::string& text, const ParameterValues& numbers) {
    const QuantityKind kind = quantity_of(field.kind);
    auto value = number_in_field(field, text, numbers);
    if (!value) return fail(value.error());
    if (field.low < field.high && (*value < field.low || *value > field.high))
        fail({ProblemCode::Range, format_quantity(*value, kind, 6) + " is outside what is possible here.",
              "Use " + format_quantity(field.low, kind) + " to " + format_quantity(field.high, kind) + "."});
}

void Applier::on(const SetField& e) {
    change_step(e.part, e.step, [&](Part& p, size_t i) {
        const StepKind* kind = find_step_kind(p.steps[i].kind);
        const StepField* field = kind ? kind->field(e.field) : nullptr;
        if (!field)
            return fail(no_such("field of a " + (kind ? in_lower_case(kind->title) : p.steps[i].kind), e.field,
                                kind ? names_of(kind->fields, &StepField::name) : std::vector<std::string>{}));
        check_value(*field, e.text);
        // A drawing is not read out.
        sentence_ = field->kind == FieldKind::Drawing
                        ? kind->title + " " + std::to_string(i + 1) + " drawn"
                        : kind->title + " " + std::to_string(i + 1) + ": " + as_words(e.field) + " to " + e.text.text();
        p.steps[i].fields[e.field] = e.text;
    });
}

void Applier::on(const SetDrawing& e) {
    const Step* step = project_.step(e.part, e.step);
    const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
    const StepField* field = kind ? kind->field_of(FieldKind::Drawing) : nullptr;
    if (!field) return fail(missing("That outline"));
    on(SetField{e.part, e.step, field->name, FieldValue(e.drawing)});
}

void Applier::on(const CopyStep& e) {
    PartPtr from = project_.part(e.from), to = project_.part(e.to);
    const Step* step = from ? from->step(e.step) : nullptr;
    const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
    if (!kind || !to) return fail(missing(to ? "That step" : "That part"));
    Step copy = *step;
    std::set<std::string> lost;
    std::string itself;
    if (from != to)
        each_reference(project_, *from, *step, [&](const Reference& r) {
            if (r.to == RefersTo::Part && r.part == to->id) itself = r.name;
            bool mine =
                r.part == from->id && (r.to == RefersTo::Step || r.to == RefersTo::Body || r.to == RefersTo::Face);
            if (mine && (r.name.empty() || !named_in(*to, r.name))) lost.insert(r.place.name);
        });
    if (!itself.empty())
        return fail({ProblemCode::Missing, "The step uses " + itself + ", and would stand in it there.",
                     "Copy it to another part."});
    for (const std::string& name : lost)
        if (const StepField* field = kind->field(name); field && field->kind != FieldKind::Drawing)
            copy.fields[name] = field->standard;
    copy.id = {};
    on(AddStep{e.to, copy, e.index});
    std::vector<std::string> words;
    for (const std::string& name : lost) words.push_back(as_words(name));
    sentence_ = "Copied " + kind->title + " to " + to->name;
    if (!words.empty()) sentence_ += "; what it had for " + joined(words) + " is not there";
}

void Applier::on(const AddStep& e) {
    const StepKind* kind = find_step_kind(e.step.kind);
    if (!kind)
        return fail({ProblemCode::Missing, "There is no kind of step called " + quoted_start(e.step.kind) + ".",
                     "See loose-peg-cli steps."});
    change_part(e.part, [&](Part& p) {
        Step step = e.step;
        if (!step.id) step.id = StepId(project_.next_id++);
        fill_fields(step);
        size_t at = std::min(e.index.value_or(p.steps.size()), p.steps.size());
        p.steps.insert(p.steps.begin() + long(at), step);
        sentence_ = "Added " + kind->title + " to " + p.name;
    });
}

void Applier::on(const RemoveStep& e) {
    change_step(e.part, e.step, [&](Part& p, size_t i) {
        sentence_ = "Removed step " + std::to_string(i + 1) + " of " + p.name;
        p.steps.erase(p.steps.begin() + long(i));
    });
}

void Applier::on(const MoveStep& e) {
    change_step(e.part, e.step, [&](Part& p, size_t i) {
        if (auto why = check_move(project_, p, e.step, e.index)) return fail(*why);
        Step step = p.steps[i];
        p.steps.erase(p.steps.begin() + long(i));
        size_t to = std::min(e.index, p.steps.size());
        p.steps.insert(p.steps.begin() + long(to), step);
        sentence_ = "Moved step " + std::to_string(i + 1) + " of " + p.name + " to place " + std::to_string(to + 1);
    });
}

void Applier::on(const SwitchStep& e) {
    change_step(e.part, e.step, [&](Part& p, size_t i) {
        p.steps[i].on = e.on;
        sentence_ = "Step " + std::to_string(i + 1) + " of " + p.name + (e.on ? " switched on" : " switched off");
    });
}

/// What refers to the step by its name, or to bodies named after it, follows.
void Applier::on(const NameStep& e) {
    PartPtr part = project_.part(e.part);
    const Step* step = part ? part->step(e.step) : nullptr;
    if (!step) return fail(missing("That step"));
    const std::string old = step->name, number = to_text(e.step);
    if (!old.empty())
        project_ = with_references(project_, [&](const Reference& r) -> NewText {
            if ((r.to != RefersTo::Step && r.to != RefersTo::Body) || r.part != e.part || r.step != e.step)
                return std::nullopt;
            if (r.name == old) return e.name.empty() ? number : e.name;
            if (r.name.compare(0, old.size() + 1, old + " ") != 0) return std::nullopt; // by its number
            return trimmed(e.name + r.name.substr(old.size()));
        });
    change_step(e.part, e.step, [&](Part& p, size_t i) {
        p.steps[i].name = e.name;
        sentence_ = "Step " + std::to_string(i + 1) + " of " + p.name + " named " + e.name;
    });
}

void Applier::on(const GroupSteps& e) {
    change_part(e.part, [&](Part& p) {
        size_t found = 0;
        for (Step& s : p.steps)
            if (std::find(e.steps.begin(), e.steps.end(), s.id) != e.steps.end()) s.group = e.group, ++found;
        if (!found) return fail(missing("That step"));
        sentence_ = e.group.empty() ? "Took steps of " + p.name + " out of their group"
                                    : "Grouped " + std::to_string(found) + " steps of " + p.name + " as " + e.group;
    });
}

} // namespace lp
