#include "project/edit.h"
#include "base/quantity.h"
#include "project/movement_check.h"
#include "project/step_uses.h"
#include <algorithm>

namespace lp {
namespace {

Problem missing(const std::string& what) {
    return {ProblemCode::Missing, what + " is not there any more.", "Choose it again.", {}, {}};
}

/// Applies one edit after the other to a working copy.
class Applier {
  public:
    explicit Applier(const Project& from) : project_(from) {}

    std::optional<Problem> apply(const SingleEdit& edit) {
        problem_.reset();
        std::visit([this](const auto& e) { this->on(e); }, edit);
        return problem_;
    }
    Project take() { return std::move(project_); }
    const std::string& sentence() const { return sentence_; }

  private:
    void fail(Problem problem) { problem_ = std::move(problem); }

    template <class Change> void change_part(uint64_t id, Change change) {
        for (PartPtr& part : project_.parts)
            if (part->id == id) {
                auto next = std::make_shared<Part>(*part);
                change(*next);
                if (!problem_) part = next;
                return;
            }
        fail(missing("That part"));
    }

    template <class Change> void change_step(uint64_t part, uint64_t step, Change change) {
        change_part(part, [&](Part& p) {
            for (size_t i = 0; i < p.steps.size(); ++i)
                if (p.steps[i].id == step) return change(p, i);
            fail(missing("That step"));
        });
    }

    Expected<ParameterValues> values() const { return project_values(project_); }

    void check_value(const StepField& field, const std::string& text) {
        auto numbers = values();
        if (is_quantity(field.kind)) {
            if (!numbers) return fail(numbers.error());
            auto value = evaluate_expression(text, quantity_of(field.kind), *numbers);
            if (!value) return fail(value.error());
            if (field.low < field.high && (*value < field.low || *value > field.high))
                fail({ProblemCode::Range,
                      format_quantity(*value, quantity_of(field.kind), 6) + " is outside what is possible here.",
                      "Use " + format_quantity(field.low, quantity_of(field.kind)) + " to " +
                          format_quantity(field.high, quantity_of(field.kind)) + ".",
                      {},
                      {}});
        } else if (field.kind == FieldKind::Choice) {
            if (std::find(field.choices.begin(), field.choices.end(), text) == field.choices.end()) {
                std::string all;
                for (const std::string& c : field.choices) all += (all.empty() ? "" : ", ") + c;
                fail({ProblemCode::Wording, "\"" + text + "\" is no choice here.", "Use one of: " + all + ".", {}, {}});
            }
        } else if (field.kind == FieldKind::Fit) {
            if (!numbers) return fail(numbers.error());
            auto resolved = resolve_fit_field(project_, text, {}, *numbers);
            if (!resolved) fail(resolved.error());
        } else if (field.kind == FieldKind::Drawing) {
            if (!numbers) return fail(numbers.error());
            auto drawing = drawing_from_text(text);
            if (!drawing) return fail(drawing.error());
            if (auto sizes = dimension_values(*drawing, *numbers); !sizes) fail(sizes.error());
        } else if (field.kind == FieldKind::Regions) {
            if (text == "all" || text == "every") return;
            if (!numbers) return fail(numbers.error());
            if (auto choices = choices_from_text(text, *numbers); !choices) fail(choices.error());
        } else if (field.kind == FieldKind::Part) {
            if (!project_.part_named(text))
                fail({ProblemCode::Missing,
                      "There is no part called \"" + text + "\".",
                      "Choose one of the shelf.",
                      {},
                      {}});
        }
    }

    void on(const SetField& e) {
        change_step(e.part, e.step, [&](Part& p, size_t i) {
            const StepKind* kind = find_step_kind(p.steps[i].kind);
            const StepField* field = kind ? kind->field(e.field) : nullptr;
            if (!field) return fail(missing("That number"));
            check_value(*field, e.text);
            std::string words = e.field;
            std::replace(words.begin(), words.end(), '_', ' ');
            sentence_ = kind->title + " " + std::to_string(i + 1) + ": " + words + " to " + e.text;
            p.steps[i].fields[e.field] = e.text;
        });
    }

    void on(const SetParameter& e) {
        if (auto wrong = check_parameter_name(e.name)) return fail(*wrong);
        auto found = std::find_if(project_.parameters.begin(), project_.parameters.end(),
                                  [&](const Parameter& p) { return p.name == e.name; });
        if (found == project_.parameters.end()) {
            project_.parameters.push_back(
                {e.name, e.expression, e.kind.value_or(QuantityKind::Length), e.note.value_or("")});
        } else {
            found->expression = e.expression;
            if (e.kind) found->kind = *e.kind;
            if (e.note) found->note = *e.note;
        }
        sentence_ = e.name + " = " + e.expression;
        if (auto numbers = values(); !numbers) fail(numbers.error());
    }

    void on(const RenameParameter& e) {
        if (e.from == e.to) return;
        if (auto wrong = check_parameter_name(e.to)) return fail(*wrong);
        for (const Parameter& p : project_.parameters)
            if (p.name == e.to)
                return fail({ProblemCode::Wording,
                             "There is already a number called \"" + e.to + "\".",
                             "Choose another name.",
                             {},
                             {}});
        for (Parameter& p : project_.parameters) {
            p.expression = rename_in_expression(p.expression, e.from, e.to);
            if (p.name == e.from) p.name = e.to;
        }
        for (PartPtr& part : project_.parts) {
            auto next = std::make_shared<Part>(*part);
            for (Step& step : next->steps)
                if (const StepKind* kind = find_step_kind(step.kind))
                    each_expression(step, *kind, true, [&](const std::string&, std::string& text) {
                        text = rename_in_expression(text, e.from, e.to);
                    });
            for (size_t k = 0; k < 3; ++k) {
                for (auto* texts : {&next->place.at, &next->place.turn, &next->pose.turn})
                    (*texts)[k] = rename_in_expression((*texts)[k], e.from, e.to);
            }
            for (Variant& variant : next->variants) {
                std::map<std::string, std::string> renamed;
                for (const auto& [key, text] : variant.numbers)
                    renamed[key == e.from ? e.to : key] = rename_in_expression(text, e.from, e.to);
                variant.numbers = renamed;
            }
            if (!(*next == *part)) part = next;
        }
        sentence_ = e.from + " is now called " + e.to;
    }

    void on(const RemoveParameter& e) {
        auto uses = uses_of_parameter(project_, e.name);
        if (!uses.empty()) {
            std::string where;
            for (const std::string& use : uses) where += (where.empty() ? "" : "; ") + use;
            return fail({ProblemCode::Range,
                         e.name + " is in use: " + where + ".",
                         "Give those another number first.",
                         {},
                         {}});
        }
        auto gone = std::remove_if(project_.parameters.begin(), project_.parameters.end(),
                                   [&](const Parameter& p) { return p.name == e.name; });
        if (gone == project_.parameters.end()) return fail(missing("That number"));
        project_.parameters.erase(gone, project_.parameters.end());
        sentence_ = "Removed " + e.name;
    }

    void on(const AddStep& e) {
        const StepKind* kind = find_step_kind(e.step.kind);
        if (!kind) return fail(missing("That kind of step"));
        change_part(e.part, [&](Part& p) {
            Step step = e.step;
            if (step.id == 0) step.id = project_.next_id++;
            for (const StepField& field : kind->fields) {
                step.fields.try_emplace(field.name, field.standard);
                if (problem_) return;
            }
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
            if (auto why = check_move(p, e.step, e.index)) return fail(*why);
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

    void on(const NameStep& e) {
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
        if (part.id == 0) part.id = project_.next_id++;
        for (Step& step : part.steps) {
            if (step.id == 0) step.id = project_.next_id++;
            if (const StepKind* kind = find_step_kind(step.kind))
                for (const StepField& field : kind->fields) step.fields.try_emplace(field.name, field.standard);
        }
        sentence_ = "Added " + std::string(part.stand_in ? "stand-in " : "part ") + part.name;
        project_.parts.push_back(std::make_shared<const Part>(std::move(part)));
    }

    void on(const RemovePart& e) {
        PartPtr gone = project_.part(e.part);
        if (!gone) return fail(missing("That part"));
        for (const PartPtr& part : project_.parts)
            for (size_t i = 0; i < part->steps.size(); ++i)
                if (auto tool = part->steps[i].fields.find("tool");
                    part->id != e.part && tool != part->steps[i].fields.end() && tool->second == gone->name)
                    return fail({ProblemCode::Range,
                                 gone->name + " is in use: " + part->name + ", step " + std::to_string(i + 1) + ".",
                                 "Remove that step first.",
                                 {},
                                 {}});
        sentence_ = "Removed " + gone->name;
        std::erase_if(project_.contacts,
                      [&](const WantedContact& c) { return c.a == gone->name || c.b == gone->name; });
        std::erase_if(project_.measures,
                      [&](const KeptMeasure& m) { return m.a.part == gone->id || (m.b && m.b->part == gone->id); });
        std::erase_if(project_.movements, [&](const KeptMovement& m) {
            return m.moving == gone->name || m.moving.rfind(gone->name + "/", 0) == 0;
        });
        std::erase(project_.parts, gone);
    }

    void on(const RenamePart& e) {
        PartPtr renamed = project_.part(e.part);
        if (!renamed) return fail(missing("That part"));
        std::string name = e.name;
        name.erase(0, name.find_first_not_of(' '));
        name.erase(name.find_last_not_of(' ') + 1);
        if (name == renamed->name) return;
        if (name.empty() || name.size() > 80)
            return fail({ProblemCode::Wording, "A part needs a name of 1 to 80 letters.", "Type one.", {}, {}});
        if (project_.part_named(name))
            return fail({ProblemCode::Wording,
                         "There is already a part called \"" + name + "\".",
                         "Choose another name.",
                         {},
                         {}});
        std::string old = renamed->name;
        for (PartPtr& part : project_.parts) {
            auto next = std::make_shared<Part>(*part);
            if (part->id == e.part) next->name = name;
            for (Step& step : next->steps)
                if (const StepKind* kind = find_step_kind(step.kind))
                    for (const StepField& field : kind->fields)
                        if (auto text = step.fields.find(field.name);
                            field.kind == FieldKind::Part && text != step.fields.end() && text->second == old)
                            text->second = name;
            if (!(*next == *part)) part = next;
        }
        auto follow = [&](std::string& one) {
            if (one == old || one.rfind(old + "/", 0) == 0) one = name + one.substr(old.size());
        };
        for (WantedContact& c : project_.contacts) {
            follow(c.a);
            follow(c.b);
        }
        for (KeptMovement& m : project_.movements) {
            follow(m.moving);
            follow(m.still);
        }
        sentence_ = old + " is now called " + name;
    }

    void on(const SetQuantity& e) {
        if (e.quantity < 0 || e.quantity > 1000)
            return fail({ProblemCode::Range, "A quantity is 0 to 1000.", "Type such a number.", {}, {}});
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
    void on(const SetPlace& e) {
        auto numbers = values();
        if (!numbers) return fail(numbers.error());
        if (auto place = assembly_transform(e.place, *numbers); !place) return fail(place.error());
        change_part(e.part, [&](Part& p) {
            p.place = e.place;
            sentence_ = e.place.is_home() ? "Put " + p.name + " back where it was drawn"
                                          : "Placed " + p.name + " in the assembly";
        });
    }
    void on(const KeepVariant& e) {
        if (e.name.empty() || e.name.size() > 80)
            return fail({ProblemCode::Wording, "A variant needs a name of 1 to 80 letters.", "Type one.", {}, {}});
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
        fail(missing("That variant"));
    }
    void on(const RemoveVariant& e) {
        change_part(e.part, [&](Part& p) {
            if (!std::erase_if(p.variants, [&](const Variant& v) { return v.name == e.name; }))
                return fail(missing("That variant"));
            sentence_ = "Dropped the variant " + e.name + " of " + p.name;
        });
    }
    void on(const AddMeasure& e) {
        KeptMeasure measure = e.measure;
        if (!project_.part(measure.a.part) || (measure.b && !project_.part(measure.b->part)))
            return fail(missing("That part"));
        if (measure.id == 0) measure.id = project_.next_id++;
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
            if (!std::erase_if(project_.contacts, same)) return fail(missing("That contact"));
            sentence_ = "No fit is wanted between " + e.a + " and " + e.b;
            return;
        }
        if (e.a.empty() || e.b.empty() || e.a == e.b)
            return fail({ProblemCode::Wording, "A contact needs two different bodies.", "Name two.", {}, {}});
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
        if (auto path = movement_path(m, *numbers); !path) fail(path.error());
    }
    void on(const AddMovement& e) {
        KeptMovement movement = e.movement;
        if (movement.id == 0) movement.id = project_.next_id++;
        check_movement_fields(movement);
        project_.movements.push_back(movement);
        sentence_ = "Movement of " + movement.moving;
    }
    void on(const SetMovement& e) {
        for (KeptMovement& m : project_.movements)
            if (m.id == e.movement.id) {
                check_movement_fields(e.movement);
                m = e.movement;
                sentence_ = "Movement of " + m.moving + " changed";
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
        const PostOptions& o = e.supports.posts;
        if (!(o.spacing_mm >= 0.5 && o.spacing_mm <= 100 && o.post_mm >= 0.2 && o.post_mm <= 50 && o.tip_mm >= 0.1 &&
              o.tip_mm <= o.post_mm && o.contact_gap_mm >= 0 && o.contact_gap_mm <= 5))
            return fail({ProblemCode::Range,
                         "These support sizes make no sense.",
                         "Gap 0 to 5 mm, posts 0.2 to 50 mm apart by 0.5 mm or more, tips thinner than posts.",
                         {},
                         {}});
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
        fail(missing("That fit"));
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
        project_.name = e.name;
        sentence_ = "Project called " + e.name;
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
        if (auto failed = applier.apply(single)) return tl::make_unexpected(*failed);
        if (sentence.empty()) sentence = applier.sentence();
    }
    return Edited{std::make_shared<const Project>(applier.take()), sentence};
}

Edit edit_from_typed(const Project& project, uint64_t part, uint64_t step, const std::string& field,
                     const std::string& typed) {
    size_t equals = typed.find('=');
    if (equals != std::string::npos && typed.find('=', equals + 1) == std::string::npos) {
        std::string name = typed.substr(0, equals), expression = typed.substr(equals + 1);
        name.erase(0, name.find_first_not_of(' '));
        name.erase(name.find_last_not_of(' ') + 1);
        expression.erase(0, expression.find_first_not_of(' '));
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
