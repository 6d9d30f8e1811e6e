#include "project/edit.h"
#include "base/no_such.h"
#include "base/quantity.h"
#include "base/text.h"
#include "project/layer_heights.h"
#include "project/movement_check.h"
#include "project/project_json.h"
#include "project/references.h"
#include "project/typed_numbers.h"
#include "project/versions.h"
#include "project/way_out.h"
#include <algorithm>
#include <nlohmann/json.hpp>
#include <set>

namespace lp {
namespace {

Problem missing(const std::string& what) {
    return {ProblemCode::Missing, what + " is not there any more.", "Choose it again."};
}

/// What things are called, for saying which there are.
template <class Things, class NameOf> std::vector<std::string> names_of(const Things& things, NameOf name_of) {
    std::vector<std::string> names;
    for (const auto& thing : things) names.push_back(thing.*name_of);
    return names;
}

/// Applies one edit after the other to a working copy.
class Applier {
  public:
    explicit Applier(const Project& from) : project_(from) {}

    std::optional<Problem> apply(const SingleEdit& edit) {
        problem_.reset();
        edit.visit([this](const auto& e) { this->on(e); });
        return problem_;
    }
    /// Lets formulas of cards, fits and supports follow what was edited.
    std::optional<Problem> follow(const Project& before) {
        auto moved = follow_formulas(before, project_);
        if (!moved) return moved.error();
        for (const FollowingNumber& number : *moved)
            if (auto wrong = apply(number.edit)) return in_number(number.words, *wrong);
        return std::nullopt;
    }
    Project take() { return std::move(project_); }
    const std::string& sentence() const { return sentence_; }

  private:
    void fail(Problem problem) { problem_ = std::move(problem); }
    Problem no_such_number(const std::string& name) const {
        return no_such("number", name, names_of(project_.parameters, &Parameter::name));
    }

    static std::optional<Problem> check_name(const std::string& name, const std::string& whose) {
        if (!name.empty() && name.size() <= 80) return std::nullopt;
        return Problem{ProblemCode::Wording, whose + " needs a name of 1 to 80 letters.", "Type one."};
    }
    static void fill_fields(Step& step) {
        if (const StepKind* kind = find_step_kind(step.kind))
            for (const StepField& field : kind->fields) step.fields.try_emplace(field.name, field.standard);
    }
    static bool named_in(const Part& part, const std::string& name) {
        return std::any_of(part.steps.begin(), part.steps.end(), [&](const Step& s) { return s.name == name; });
    }

    template <class Change> void change_part(PartId id, Change change) {
        for (PartPtr& part : project_.parts)
            if (part->id == id) {
                auto next = std::make_shared<Part>(*part);
                change(*next);
                if (!problem_) part = next;
                return;
            }
        fail(missing("That part"));
    }

    template <class Change> void change_step(PartId part, StepId step, Change change) {
        change_part(part, [&](Part& p) {
            for (size_t i = 0; i < p.steps.size(); ++i)
                if (p.steps[i].id == step) return change(p, i);
            fail(missing("That step"));
        });
    }

    Expected<ParameterValues> values() const { return project_values(project_); }

    void check_value(const StepField& field, const FieldValue& value) {
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

    void check_quantity(const StepField& field, const std::string& text, const ParameterValues& numbers) {
        const QuantityKind kind = quantity_of(field.kind);
        auto value = number_in_field(field, text, numbers);
        if (!value) return fail(value.error());
        if (field.low < field.high && (*value < field.low || *value > field.high))
            fail({ProblemCode::Range, format_quantity(*value, kind, 6) + " is outside what is possible here.",
                  "Use " + format_quantity(field.low, kind) + " to " + format_quantity(field.high, kind) + "."});
    }

    void on(const SetField& e) {
        change_step(e.part, e.step, [&](Part& p, size_t i) {
            const StepKind* kind = find_step_kind(p.steps[i].kind);
            const StepField* field = kind ? kind->field(e.field) : nullptr;
            if (!field)
                return fail(no_such("field of a " + (kind ? in_lower_case(kind->title) : p.steps[i].kind), e.field,
                                    kind ? names_of(kind->fields, &StepField::name) : std::vector<std::string>{}));
            check_value(*field, e.text);
            // A drawing is not read out.
            sentence_ = field->kind == FieldKind::Drawing ? kind->title + " " + std::to_string(i + 1) + " drawn"
                                                          : kind->title + " " + std::to_string(i + 1) + ": " +
                                                                as_words(e.field) + " to " + e.text.text();
            p.steps[i].fields[e.field] = e.text;
        });
    }

    void on(const SetDrawing& e) {
        const Step* step = project_.step(e.part, e.step);
        const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
        const StepField* field = kind ? kind->field_of(FieldKind::Drawing) : nullptr;
        if (!field) return fail(missing("That outline"));
        on(SetField{e.part, e.step, field->name, FieldValue(e.drawing)});
    }

    void on(const CopyStep& e) {
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

    void on(const SetParameter& e) {
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

    void on(const SetReadings& e) {
        auto found = std::find_if(project_.parameters.begin(), project_.parameters.end(),
                                  [&](const Parameter& p) { return p.name == e.name; });
        if (found == project_.parameters.end()) return fail(no_such_number(e.name));
        if (found->kind != QuantityKind::Length && found->kind != QuantityKind::Angle)
            return fail({ProblemCode::Wording, "Only lengths and angles are measured.",
                         "Give \"" + e.name + "\" another unit."});
        if (auto wrong = check_readings(e.readings)) return fail(*wrong);
        found->readings = e.readings;
        const char* unit = found->kind == QuantityKind::Length ? " mm" : " deg";
        if (auto number = number_of(e.readings)) found->expression = format_number(*number, 4) + unit;
        sentence_ = e.name + ": " + counted(e.readings.values.size(), "reading", "readings");
        if (e.readings.follows != Follows::None && !e.readings.values.empty())
            sentence_ += std::string(", ") + follows_name(e.readings.follows) + " " + found->expression;
        if (auto numbers = values(); !numbers) fail(numbers.error());
    }

    void on(const RenameParameter& e) {
        if (std::none_of(project_.parameters.begin(), project_.parameters.end(),
                         [&](const Parameter& p) { return p.name == e.from; }))
            return fail(no_such_number(e.from));
        if (e.from == e.to) return;
        if (auto wrong = check_parameter_name(e.to)) return fail(*wrong);
        for (const Parameter& p : project_.parameters)
            if (p.name == e.to)
                return fail({ProblemCode::Wording, "There is already a number called \"" + e.to + "\".",
                             "Choose another name."});
        project_ = with_expressions(
            project_, [&](const Expression& one) -> NewText { return rename_in_expression(one.text, e.from, e.to); });
        project_ = with_references(project_, [&](const Reference& r) -> NewText {
            return r.to == RefersTo::Parameter && r.name == e.from ? NewText(e.to) : std::nullopt;
        });
        for (Parameter& p : project_.parameters)
            if (p.name == e.from) p.name = e.to;
        sentence_ = e.from + " is now called " + e.to;
    }

    void on(const RemoveParameter& e) {
        auto uses = uses_of_parameter(project_, e.name);
        if (!uses.empty()) {
            std::string where;
            for (const std::string& use : uses) where += (where.empty() ? "" : "; ") + use;
            return fail(
                {ProblemCode::Range, e.name + " is in use: " + where + ".", "Give those another number first."});
        }
        auto gone = std::remove_if(project_.parameters.begin(), project_.parameters.end(),
                                   [&](const Parameter& p) { return p.name == e.name; });
        if (gone == project_.parameters.end()) return fail(no_such_number(e.name));
        project_.parameters.erase(gone, project_.parameters.end());
        sentence_ = "Removed " + e.name;
    }

    void on(const AddStep& e) {
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

    void on(const RemoveStep& e) {
        change_step(e.part, e.step, [&](Part& p, size_t i) {
            sentence_ = "Removed step " + std::to_string(i + 1) + " of " + p.name;
            p.steps.erase(p.steps.begin() + long(i));
        });
    }

    void on(const MoveStep& e) {
        change_step(e.part, e.step, [&](Part& p, size_t i) {
            if (auto why = check_move(project_, p, e.step, e.index)) return fail(*why);
            Step step = p.steps[i];
            p.steps.erase(p.steps.begin() + long(i));
            size_t to = std::min(e.index, p.steps.size());
            p.steps.insert(p.steps.begin() + long(to), step);
            sentence_ = "Moved step " + std::to_string(i + 1) + " of " + p.name + " to place " + std::to_string(to + 1);
        });
    }

    void on(const SwitchStep& e) {
        change_step(e.part, e.step, [&](Part& p, size_t i) {
            p.steps[i].on = e.on;
            sentence_ = "Step " + std::to_string(i + 1) + " of " + p.name + (e.on ? " switched on" : " switched off");
        });
    }

    /// What refers to the step by its name, or to bodies named after it, follows.
    void on(const NameStep& e) {
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

    void on(const GroupSteps& e) {
        change_part(e.part, [&](Part& p) {
            size_t found = 0;
            for (Step& s : p.steps)
                if (std::find(e.steps.begin(), e.steps.end(), s.id) != e.steps.end()) s.group = e.group, ++found;
            if (!found) return fail(missing("That step"));
            sentence_ = e.group.empty() ? "Took steps of " + p.name + " out of their group"
                                        : "Grouped " + std::to_string(found) + " steps of " + p.name + " as " + e.group;
        });
    }

    void on(const AddPart& e) {
        Part part = e.part;
        if (part.name.empty() || project_.part_named(part.name))
            part.name = free_part_name(project_, part.name.empty() ? "Part" : part.name);
        // Of a part that was copied the steps keep their numbers: its faces are named after them. Later ones go on from
        // there.
        for (const Step& step : part.steps) project_.next_id = std::max(project_.next_id, step.id.value + 1);
        if (!part.id) part.id = PartId(project_.next_id++);
        for (Step& step : part.steps) {
            if (!step.id) step.id = StepId(project_.next_id++);
            fill_fields(step);
        }
        sentence_ = "Added " + std::string(part.stand_in ? "stand-in " : "part ") + part.name;
        project_.parts.push_back(std::make_shared<const Part>(std::move(part)));
    }

    void on(const RemovePart& e) {
        PartPtr gone = project_.part(e.part);
        if (!gone) return fail(missing("That part"));
        if (auto uses = uses_of_part(project_, *gone); !uses.empty())
            return fail({ProblemCode::Range, gone->name + " is in use: " + joined(uses, "; ") + ".",
                         "Remove those steps first."});
        // What is only about the part goes with it: its wishes, measurements and movements.
        std::vector<MeasureId> measures;
        each_reference(project_, [&](const Reference& r) {
            if (r.to == RefersTo::Part && r.part == gone->id && r.place.in == Place::In::Measure)
                measures.push_back(r.place.measure);
        });
        std::erase_if(project_.measures, [&](const KeptMeasure& m) {
            return std::find(measures.begin(), measures.end(), m.id) != measures.end();
        });
        std::map<MovementId, bool> beside_others;
        for (const KeptMovement& m : project_.movements) beside_others[m.id] = !m.still.empty();
        project_ = with_references(project_, [&](const Reference& r) -> NewText {
            return r.to == RefersTo::Part && r.part == gone->id ? NewText("") : std::nullopt;
        });
        std::erase_if(project_.contacts, [](const WantedContact& c) { return c.a.empty() || c.b.empty(); });
        std::erase_if(project_.movements, [&](const KeptMovement& m) {
            bool axis = m.axis && m.axis->part == gone->id;
            return m.moving.empty() || axis || (beside_others[m.id] && m.still.empty());
        });
        for (const PartPtr& other : std::vector<PartPtr>(project_.parts))
            if (std::any_of(other->place.seats.begin(), other->place.seats.end(),
                            [](const Seat& s) { return s.on.empty(); }))
                change_part(other->id,
                            [](Part& p) { std::erase_if(p.place.seats, [](const Seat& s) { return s.on.empty(); }); });
        std::erase(project_.assembly, gone->id);
        sentence_ = "Removed " + gone->name;
        std::erase(project_.parts, gone);
    }

    void on(const RenamePart& e) {
        PartPtr renamed = project_.part(e.part);
        if (!renamed) return fail(missing("That part"));
        const std::string name = trimmed(e.name), old = renamed->name;
        if (name == old) return;
        if (auto wrong = check_name(name, "A part")) return fail(*wrong);
        if (project_.part_named(name))
            return fail(
                {ProblemCode::Wording, "There is already a part called \"" + name + "\".", "Choose another name."});
        project_ = with_references(project_, [&](const Reference& r) -> NewText {
            return r.to == RefersTo::Part && r.part == e.part ? NewText(name) : std::nullopt;
        });
        change_part(e.part, [&](Part& p) { p.name = name; });
        sentence_ = old + " is now called " + name;
    }

    void on(const SetQuantity& e) {
        if (e.quantity < 0 || e.quantity > 1000)
            return fail({ProblemCode::Range, "A quantity is 0 to 1000.", "Type such a number."});
        change_part(e.part, [&](Part& p) {
            p.quantity = e.quantity;
            sentence_ = std::to_string(e.quantity) + " of " + p.name;
        });
    }
    void on(const SetColour& e) {
        change_part(e.part, [&](Part& p) {
            p.colour = e.colour;
            sentence_ = "Colour of " + p.name;
        });
    }
    void on(const SetVisible& e) {
        change_part(e.part, [&](Part& p) {
            p.visible = e.visible;
            sentence_ = (e.visible ? "Showed " : "Hid ") + p.name;
        });
    }
    void on(const SetSeeThrough& e) {
        change_part(e.part, [&](Part& p) {
            p.see_through = e.see_through;
            sentence_ = p.name + (e.see_through ? " see-through" : " solid");
        });
    }
    void on(const SetStandIn& e) {
        change_part(e.part, [&](Part& p) {
            p.stand_in = e.stand_in;
            sentence_ = p.name + (e.stand_in ? " is a stand-in" : " is printed");
        });
    }
    void on(const SetPose& e) {
        change_part(e.part, [&](Part& p) {
            if (auto numbers = values(); numbers) {
                for (const std::string& turn : e.pose.turn)
                    if (auto angle = evaluate_expression(turn, QuantityKind::Angle, *numbers); !angle)
                        return fail(angle.error());
            }
            sentence_ = e.pose.face && e.pose.face != p.pose.face
                            ? "Laid " + p.name + " on its " + tag_words(e.pose.face->primary) + " face"
                            : "Turned " + p.name + " on the bed";
            p.pose = e.pose;
        });
    }
    void on(const SetFaceMarks& e) {
        change_part(e.part, [&](Part& p) {
            const bool fewer = e.marks.size() < p.marks.size() || e.marks.empty();
            sentence_ = fewer ? "Took a mark off " + p.name
                              : "Marked a face of " + p.name + " as " + words_of(e.marks.back().mark);
            p.marks = e.marks;
        });
    }
    void on(const SetBrushed& e) {
        if (auto wrong = check_dabs(e.dabs)) return fail(*wrong);
        change_part(e.part, [&](Part& p) {
            const std::optional<FaceMark> mark = e.dabs.empty() ? std::nullopt : e.dabs.back().mark;
            sentence_ = mark ? "Brushed " + p.name + " as " + words_of(*mark) : "Wiped marks off " + p.name;
            p.brushed = e.dabs;
        });
    }
    void on(const SetStops& e) {
        if (e.stops.size() > most_stops)
            return fail({ProblemCode::Range, "That is more stops than a print has layers for.", "Take some out."});
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        for (const StopByHand& stop : e.stops) {
            const auto at = evaluate_expression(stop.at, QuantityKind::Length, *numbers);
            if (!at) return fail(at.error());
            if (!(*at > 0 && *at <= 10'000))
                return fail(
                    {ProblemCode::Range, "A print stops above its foot, below 10 m.", "Give a height: 7.2 mm."});
            if (stop.why.size() > 200)
                return fail({ProblemCode::Range, "That is more than fits on a job sheet.", "Say it shorter."});
        }
        change_part(e.part, [&](Part& p) {
            sentence_ = e.stops.size() > p.stops.size()   ? "A stop in the print of " + p.name
                        : e.stops.size() < p.stops.size() ? "Took a stop out of the print of " + p.name
                                                          : "Changed where the print of " + p.name + " stops";
            p.stops = e.stops;
        });
    }
    void on(const SetBands& e) {
        if (e.bands.size() > most_bands)
            return fail({ProblemCode::Range, "That is more ranges of layers than anyone follows.", "Take some out."});
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        std::vector<std::pair<double, TypedBand>> sorted;
        for (const TypedBand& band : e.bands) {
            const auto from = evaluate_expression(band.from, QuantityKind::Length, *numbers);
            if (!from) return fail(from.error());
            sorted.emplace_back(*from, band);
        }
        std::stable_sort(sorted.begin(), sorted.end(), [](const auto& a, const auto& b) { return a.first < b.first; });
        std::vector<TypedBand> bands;
        for (auto& [from, band] : sorted) bands.push_back(std::move(band));
        if (auto read = height_bands(bands, *numbers); !read) return fail(read.error());
        change_part(e.part, [&](Part& p) {
            sentence_ = bands.size() > p.bands.size()   ? "Layers of another height in " + p.name
                        : bands.size() < p.bands.size() ? "Took layers of another height out of " + p.name
                                                        : "Changed the heights of layers of " + p.name;
            p.bands = bands;
        });
    }
    void on(const SetWayOut& e) {
        if (e.legs.size() > most_legs)
            return fail({ProblemCode::Range, "That is more legs than a hand makes.", "Take some out."});
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        change_part(e.part, [&](Part& p) {
            p.way_out = e.legs;
            if (auto legs = way_out(p, *numbers, nullptr, Transform::Identity()); !legs) return fail(legs.error());
            sentence_ = e.legs.empty() ? "Let the way of " + p.name + " be looked for"
                                       : "Led " + p.name + " into its place " + std::to_string(e.legs.size()) +
                                             (e.legs.size() == 1 ? " leg long" : " legs long");
        });
    }
    void on(const SetLoad& e) {
        if (e.load && !(e.load->allFinite() && e.load->norm() > 1e-9))
            return fail({ProblemCode::Range, "A load needs a direction.", "Choose a flat face or a straight edge."});
        change_part(e.part, [&](Part& p) {
            p.load = e.load ? std::optional<Vec3>(e.load->normalized()) : std::nullopt;
            sentence_ = (p.load ? "Told how " : "Forgot how ") + p.name + " is pulled";
        });
    }
    void on(const SetPartMaterial& e) {
        if (e.material)
            if (auto wrong = check_card(*e.material)) return fail(*wrong);
        change_part(e.part, [&](Part& p) {
            p.material = e.material;
            sentence_ = p.name + " of " + material_of(project_, p).name;
        });
    }
    void on(const SetPoseWeights& e) {
        if (auto wrong = check_pose_weights(e.weights)) return fail(*wrong);
        project_.pose_weights = e.weights;
        sentence_ = "Changed what counts in comparing ways up";
    }
    void on(const KeepVersion& e) {
        if (auto wrong = check_name(e.name, "A version")) return fail(*wrong);
        Project alone = project_;
        alone.versions.clear();
        KeptVersion fresh{e.name, e.date, std::make_shared<const std::string>(project_to_json(alone).dump())};
        auto there = std::find_if(project_.versions.begin(), project_.versions.end(),
                                  [&](const KeptVersion& v) { return v.name == e.name; });
        if (there == project_.versions.end() && project_.versions.size() >= most_versions)
            return fail({ProblemCode::Range, "That is more versions than a project keeps.", "Drop some first."});
        if (there == project_.versions.end())
            project_.versions.push_back(std::move(fresh));
        else
            *there = std::move(fresh);
        sentence_ = "Kept the project as " + e.name;
    }
    void on(const RemoveVersion& e) {
        if (std::erase_if(project_.versions, [&](const KeptVersion& v) { return v.name == e.name; }) == 0)
            return fail(missing("That version"));
        sentence_ = "Dropped the version " + e.name;
    }
    void on(const TakeFromVersion& e) {
        auto next = with_taken_over(project_, e.version, e.key);
        if (!next) return fail(next.error());
        project_ = std::move(*next);
        sentence_ = "Took " + e.key + " from " + e.version;
        if (auto numbers = values(); !numbers) fail(numbers.error());
    }
    void on(const SetAssembly& e) {
        for (auto id = e.parts.begin(); id != e.parts.end(); ++id) {
            if (!project_.part(*id)) return fail(missing("That part"));
            if (std::find(e.parts.begin(), id, *id) != id)
                return fail({ProblemCode::Wording, project_.part(*id)->name + " is put in twice.", "Name it once."});
        }
        project_.assembly = e.parts;
        sentence_ = e.parts.empty() ? "Let the order of assembly be worked out" : "Changed the order of assembly";
    }
    void on(const SetStands& e) {
        for (const auto& put : e.stands) {
            const PartId id = put.first;
            const BedStands& stands = put.second;
            for (const auto& [copy, stand] : stands)
                if (auto wrong = check_stand(copy, stand)) return fail(*wrong);
            change_part(id, [&](Part& p) {
                sentence_ = e.beds ? "Arranged everything on " + counted(e.beds, "bed", "beds")
                                   : "Put " + p.name + " elsewhere on the bed";
                p.stands = stands;
            });
        }
    }
    void on(const SetBeds& e) {
        if (!(e.beds.spacing_mm >= 0 && e.beds.spacing_mm <= 100))
            return fail({ProblemCode::Range, "The way between things on a bed is 0 to 100 mm.", "Use 3 mm."});
        sentence_ = "Changed how beds are arranged";
        project_.beds = e.beds;
    }
    void on(const SetPlace& e) {
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        if (auto place = assembly_transform(e.place, *numbers); !place) return fail(place.error());
        const PartPtr placed = project_.part(e.part);
        for (const Seat& seat : e.place.seats) {
            if (auto gap = evaluate_expression(seat.gap, QuantityKind::Length, *numbers); !gap)
                return fail(gap.error());
            const PartPtr on = project_.part_named(seat.on);
            if (!on) return fail(missing("The part it is seated on"));
            if (on == placed)
                return fail({ProblemCode::Wording, "A part is not seated on itself.", "Choose a face of another one."});
        }
        change_part(e.part, [&](Part& p) {
            const bool seated = e.place.seats.size() > p.place.seats.size();
            p.place = e.place;
            sentence_ = seated              ? "Seated " + p.name + " on " + e.place.seats.back().on
                        : e.place.is_home() ? "Put " + p.name + " back where it was drawn"
                                            : "Placed " + p.name + " in the assembly";
        });
    }
    void on(const KeepVariant& e) {
        if (auto wrong = check_name(e.name, "A variant")) return fail(*wrong);
        change_part(e.part, [&](Part& p) {
            Variant fresh{e.name, numbers_of_part(project_, p)};
            auto there =
                std::find_if(p.variants.begin(), p.variants.end(), [&](const Variant& v) { return v.name == e.name; });
            if (there == p.variants.end())
                p.variants.push_back(fresh);
            else
                *there = fresh;
            sentence_ = "Kept the numbers of " + p.name + " as " + e.name;
        });
    }
    void on(const UseVariant& e) {
        PartPtr part = project_.part(e.part);
        if (!part) return fail(missing("That part"));
        for (const Variant& v : part->variants)
            if (v.name == e.name) {
                project_ = with_variant(project_, e.part, v);
                sentence_ = part->name + " takes the numbers of " + e.name;
                if (auto numbers = values(); !numbers) fail(numbers.error());
                return;
            }
        fail(no_such("variant of " + part->name, e.name, names_of(part->variants, &Variant::name)));
    }
    void on(const RemoveVariant& e) {
        change_part(e.part, [&](Part& p) {
            if (!std::erase_if(p.variants, [&](const Variant& v) { return v.name == e.name; }))
                return fail(no_such("variant of " + p.name, e.name, names_of(p.variants, &Variant::name)));
            sentence_ = "Dropped the variant " + e.name + " of " + p.name;
        });
    }
    void on(const AddMeasure& e) {
        KeptMeasure measure = e.measure;
        if (!project_.part(measure.a.part) || (measure.b && !project_.part(measure.b->part)))
            return fail(missing("That part"));
        if (!measure.id) measure.id = MeasureId(project_.next_id++);
        project_.measures.push_back(measure);
        sentence_ = "Kept a measurement";
    }
    void on(const RemoveMeasure& e) {
        if (!std::erase_if(project_.measures, [&](const KeptMeasure& m) { return m.id == e.measure; }))
            return fail(missing("That measurement"));
        sentence_ = "Dropped a measurement";
    }
    void on(const SetContact& e) {
        auto same = [&](const WantedContact& c) { return (c.a == e.a && c.b == e.b) || (c.a == e.b && c.b == e.a); };
        if (e.fit.empty()) {
            if (!std::erase_if(project_.contacts, same))
                return fail({ProblemCode::Missing,
                             "No fit was wanted between " + quoted_start(e.a) + " and " + quoted_start(e.b) + ".", ""});
            sentence_ = "No fit is wanted between " + e.a + " and " + e.b;
            return;
        }
        if (e.a.empty() || e.b.empty() || e.a == e.b)
            return fail({ProblemCode::Wording, "A contact needs two different bodies.", "Name two."});
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        if (auto resolved = resolve_fit_field(project_, e.fit, {}, *numbers); !resolved) return fail(resolved.error());
        auto found = std::find_if(project_.contacts.begin(), project_.contacts.end(), same);
        if (found == project_.contacts.end())
            project_.contacts.push_back({e.a, e.b, e.fit});
        else
            found->fit = e.fit;
        sentence_ = "Wanted between " + e.a + " and " + e.b + ": " + e.fit;
    }
    void check_movement_fields(const KeptMovement& m) {
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        auto path = movement_path(m, *numbers);
        if (!path) return fail(path.error());
        if (auto stands = stands_at(m, *path, *numbers); !stands) fail(stands.error());
    }
    void on(const AddMovement& e) {
        KeptMovement movement = e.movement;
        if (!movement.id) movement.id = MovementId(project_.next_id++);
        check_movement_fields(movement);
        project_.movements.push_back(movement);
        sentence_ = "Movement of " + movement.moving;
    }
    void on(const SetMovement& e) {
        for (KeptMovement& m : project_.movements)
            if (m.id == e.movement.id) {
                check_movement_fields(e.movement);
                sentence_ = e.movement.stands == m.stands ? "Movement of " + m.moving + " changed"
                            : e.movement.stands.empty()   ? m.moving + " stands as drawn"
                                                          : m.moving + " stands at " + e.movement.stands;
                m = e.movement;
                return;
            }
        fail(missing("That movement"));
    }
    void on(const RemoveMovement& e) {
        if (!std::erase_if(project_.movements, [&](const KeptMovement& m) { return m.id == e.movement; }))
            return fail(missing("That movement"));
        sentence_ = "Dropped a movement";
    }
    void on(const SetSupports& e) {
        if (auto wrong = check_supports(e.supports.options)) return fail(*wrong);
        change_part(e.part, [&](Part& p) {
            sentence_ = e.supports.on == p.supports.on
                            ? "Changed supports of " + p.name
                            : (e.supports.on ? "Put supports under " : "Took supports away from ") + p.name;
            p.supports = e.supports;
        });
    }
    void on(const SetFitGap& e) {
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
    void on(const SetNumber& e) {
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
    void on(const SetPrinter& e) {
        if (auto wrong = check_card(e.printer)) return fail(*wrong);
        PrinterCard next = e.printer;
        const PrinterCard& now = project_.printer;
        // A number typed over is no longer what was measured; one shrink typed for all holes replaces the table.
        if (next.gauges == now.gauges) {
            if (next.outside_growth_mm != now.outside_growth_mm) next.sources["outside_growth_mm"] = "typed here";
            if (next.hole_shrink_mm != now.hole_shrink_mm) {
                next.sources["hole_shrink_mm"] = "typed here";
                if (next.hole_shrinks == now.hole_shrinks) next.hole_shrinks.clear();
            }
        }
        project_.printer = std::move(next);
        sentence_ = "Changed the printer card";
    }
    void on(const SetMaterial& e) {
        if (auto wrong = check_card(e.material)) return fail(*wrong);
        project_.material = e.material;
        sentence_ = "Changed the material card";
    }
    void on(const SetProjectName& e) {
        const std::string name = trimmed(e.name);
        if (auto wrong = check_name(name, "A project")) return fail(*wrong);
        project_.name = name;
        sentence_ = "Project called " + name;
    }
    void on(const AddImport& e) {
        project_.imports[e.file] = e.contents;
        sentence_ = "Took in " + e.file;
    }

    Project project_;
    std::string sentence_;
    std::optional<Problem> problem_;
};

} // namespace

Expected<Edited> apply_edit(const Project& project, const Edit& edit) {
    Applier applier(project);
    std::string sentence = edit.sentence;
    for (const SingleEdit& single : edit.parts) {
        if (auto failed = applier.apply(single)) return pass_on(*failed);
        if (sentence.empty()) sentence = applier.sentence();
    }
    if (auto failed = applier.follow(project)) return pass_on(*failed);
    return Edited{std::make_shared<const Project>(applier.take()), sentence};
}

} // namespace lp
