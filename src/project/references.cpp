#include "project/references.h"
#include "base/text.h"
#include "project/typed_numbers.h"
#include <algorithm>

namespace lp {
namespace {

struct Visitor {
    std::function<NewText(const Expression&)> expression;
    std::function<NewText(const Reference&)> reference;
};

/// The step a body is named after: "flap", or "flap pin" of a step that made several.
const Step* step_of_body(const Part& part, const std::string& body) {
    if (const Step* step = step_called(part, body)) return step;
    const Step* best = nullptr;
    for (const Step& s : part.steps)
        if (!s.name.empty() && body.compare(0, s.name.size() + 1, s.name + " ") == 0 &&
            (!best || s.name.size() > best->name.size()))
            best = &s;
    return best;
}

/// Walks over a document, or a step of it. What the visitor writes anew goes into copies.
class Walk {
  public:
    Walk(const Project& project, const Visitor& visitor) : project_(project), visitor_(visitor) {}

    /// The document with what changed, or nothing.
    std::optional<Project> whole() {
        Project next = project_;
        bool changed = false;
        for (Parameter& p : next.parameters) {
            Place place{.in = Place::In::Parameter, .name = p.name, .words = "parameter " + p.name};
            changed = put(p.expression, expression(place, p.expression)) || changed;
        }
        for (PartPtr& part : next.parts)
            if (auto fresh = this->part(*part)) {
                part = std::make_shared<const Part>(std::move(*fresh));
                changed = true;
            }
        for (WantedContact& c : next.contacts) {
            const std::string words = "the contact of " + c.a + " and " + c.b;
            for (auto [one, other] : {std::pair(&c.a, c.b), std::pair(&c.b, c.a)})
                changed =
                    put(*one, participant({.in = Place::In::Contact, .name = other, .words = words}, *one)) || changed;
            changed = put(c.fit, gap({.in = Place::In::Contact, .name = c.b, .words = words}, c.fit)) || changed;
        }
        for (const KeptMeasure& m : project_.measures) {
            Place place{.in = Place::In::Measure, .measure = m.id, .words = "a measurement"};
            thing(place, m.a);
            if (m.b) thing(place, *m.b);
        }
        for (KeptMovement& m : next.movements) changed = movement(m) || changed;
        for (auto& [key, formula] : next.formulas) {
            const Place place{.in = Place::In::Number, .name = key, .words = number_words(project_, key)};
            changed = put(formula, expression(place, formula)) || changed;
        }
        if (!changed) return std::nullopt;
        return next;
    }

    std::optional<Step> step(const Part& part, const Step& step) {
        const StepKind* kind = find_step_kind(step.kind);
        if (!kind) return std::nullopt;
        part_ = &part;
        step_ = &step;
        kind_ = kind;
        size_t index = 0;
        while (index < part.steps.size() && part.steps[index].id != step.id) ++index;
        std::optional<Step> changed;
        for (const StepField& field : kind->fields) {
            place_ = {.in = Place::In::Step, .part = part.id, .step = step.id, .name = field.name};
            begin_ = part.name + ", step " + std::to_string(index + 1) + ", ";
            place_.words = begin_ + field.name;
            if (auto fresh = this->field(field, field_value(step, field))) {
                if (!changed) changed = step;
                changed->fields[field.name] = std::move(*fresh);
            }
        }
        return changed;
    }

  private:
    static bool put(std::string& into, NewText text) {
        if (!text) return false;
        into = std::move(*text);
        return true;
    }
    NewText expression(const Place& place, const std::string& text) {
        if (!visitor_.expression) return std::nullopt;
        NewText fresh = visitor_.expression({place, text});
        return fresh && *fresh != text ? fresh : std::nullopt;
    }
    NewText reference(Reference reference) {
        if (!visitor_.reference) return std::nullopt;
        NewText fresh = visitor_.reference(reference);
        return fresh && *fresh != reference.name ? fresh : std::nullopt;
    }
    /// A list of names; those written empty drop out of it.
    NewText in_list(const std::string& text, const char* separator,
                    const std::function<NewText(const std::string&)>& one) {
        std::vector<std::string> items = listed(text, separator[0]);
        bool changed = false;
        for (std::string& item : items) changed = put(item, one(item)) || changed;
        if (!changed) return std::nullopt;
        std::erase(items, std::string());
        return joined(items, separator);
    }

    NewText part_name(const Place& place, const std::string& name) {
        PartPtr found = project_.part_named(name);
        return reference({place, RefersTo::Part, name, found ? found->id : PartId(), {}});
    }
    NewText step_name(const Place& place, const Part* of, const std::string& name) {
        const Step* step = of ? step_called(*of, name) : nullptr;
        return reference({place, RefersTo::Step, name, of ? of->id : PartId(), step ? step->id : StepId()});
    }
    NewText body_name(const Place& place, const Part* of, const std::string& name) {
        const Step* step = of ? step_of_body(*of, name) : nullptr;
        return reference({place, RefersTo::Body, name, of ? of->id : PartId(), step ? step->id : StepId()});
    }
    /// "part" or "part/body".
    NewText participant(const Place& place, const std::string& text) {
        PartPtr part;
        for (const PartPtr& p : project_.parts)
            if ((text == p->name || text.compare(0, p->name.size() + 1, p->name + "/") == 0) &&
                (!part || p->name.size() > part->name.size()))
                part = p;
        std::string name = part ? part->name : text.substr(0, text.find('/'));
        std::string body = text.size() > name.size() ? text.substr(name.size() + 1) : std::string();
        NewText own = reference({place, RefersTo::Part, name, part ? part->id : PartId(), {}});
        if (own && own->empty()) return own;
        NewText inner = body.empty() ? std::nullopt : body_name(place, part.get(), body);
        if (!own && !inner) return std::nullopt;
        return own.value_or(name) + (body.empty() ? "" : "/" + inner.value_or(body));
    }
    NewText gap(const Place& place, const std::string& text) {
        if (find_fit(project_.fits, text)) return reference({place, RefersTo::Fit, text, {}, {}});
        return expression(place, text);
    }
    void tagged(const Place& place, PartId part, Tag tag) {
        for (auto meaning = tag_meaning(tag); meaning;
             meaning = meaning->parent ? tag_meaning(meaning->parent) : std::nullopt)
            reference({place, RefersTo::Face, {}, part, meaning->step});
    }
    void picked(const Place& place, PartId part, const GeometryItem& item) {
        if (item.face()) tagged(place, part, item.face()->primary);
        if (item.edge()) {
            tagged(place, part, item.edge()->a.primary);
            tagged(place, part, item.edge()->b.primary);
        }
    }
    void thing(const Place& place, const MeasuredThing& measured) {
        PartPtr part = project_.part(measured.part);
        reference({place, RefersTo::Part, part ? part->name : std::string(), measured.part, {}});
        picked(place, measured.part, measured.reference);
    }

    /// A face of one part on a face of another.
    bool seat(const Part& source, size_t i, Seat& seat) {
        Place place{.in = Place::In::Position, .part = source.id, .name = "seat " + std::to_string(i + 1)};
        place.words = source.name + ", " + place.name;
        const PartPtr on = project_.part_named(seat.on);
        bool changed = false;
        for (auto [of, face] : {std::pair(&source, &seat.face), std::pair(on.get(), &seat.on_face)}) {
            if (!of) continue;
            picked(place, of->id, *face);
            const size_t name = face->is_picked() ? std::string::npos : face->text().rfind(" of ");
            if (name == std::string::npos) continue;
            if (auto fresh = step_name(place, of, face->text().substr(name + 4))) {
                *face = GeometryItem(face->text().substr(0, name + 4) + *fresh);
                changed = true;
            }
        }
        changed = put(seat.on, part_name(place, seat.on)) || changed;
        return put(seat.gap, expression(place, seat.gap)) || changed;
    }

    std::optional<Part> part(const Part& source) {
        Part next = source;
        bool changed = false;
        for (Step& s : next.steps)
            if (auto fresh = step(source, s)) {
                s = std::move(*fresh);
                changed = true;
            }
        const char* axes[] = {"x", "y", "z"};
        auto numbers = [&](Place::In in, std::array<std::string, 3>& texts, const std::string& what) {
            for (size_t k = 0; k < 3; ++k) {
                Place place{.in = in, .part = source.id, .name = what + " " + axes[k]};
                place.words = source.name + ", " + place.name;
                changed = put(texts[k], expression(place, texts[k])) || changed;
            }
        };
        numbers(Place::In::Position, next.place.at, "place");
        numbers(Place::In::Position, next.place.turn, "place, turned about");
        for (size_t i = 0; i < next.place.seats.size(); ++i) changed = seat(source, i, next.place.seats[i]) || changed;
        numbers(Place::In::Pose, next.pose.turn, "pose, turned about");
        for (size_t i = 0; i < next.stops.size(); ++i) {
            Place place{.in = Place::In::Pose, .part = source.id, .name = "stop " + std::to_string(i + 1)};
            place.words = source.name + ", " + place.name;
            changed = put(next.stops[i].at, expression(place, next.stops[i].at)) || changed;
        }
        for (size_t i = 0; i < next.bands.size(); ++i) {
            Place place{.in = Place::In::Pose, .part = source.id, .name = "layers " + std::to_string(i + 1)};
            place.words = source.name + ", " + place.name;
            for (std::string TypedBand::*text : {&TypedBand::from, &TypedBand::to, &TypedBand::layer})
                changed = put(next.bands[i].*text, expression(place, next.bands[i].*text)) || changed;
        }
        for (size_t i = 0; i < next.way_out.size(); ++i) {
            Place place{.in = Place::In::Position, .part = source.id, .name = "way out, leg " + std::to_string(i + 1)};
            place.words = source.name + ", " + place.name;
            std::string& by = next.way_out[i].by;
            const bool drawn = next.way_out[i].to == "along"; // by the name of the step that drew it
            changed = put(by, drawn ? step_name(place, &source, by) : expression(place, by)) || changed;
        }
        std::erase_if(next.way_out, [](const TypedLeg& leg) { return leg.by.empty(); });
        if (next.pose.face)
            tagged({.in = Place::In::Pose, .part = source.id, .name = "face", .words = source.name + ", pose"},
                   source.id, next.pose.face->primary);
        for (const MarkedFace& marked : next.marks)
            tagged({.in = Place::In::Pose,
                    .part = source.id,
                    .name = "mark",
                    .words = source.name + ", face marked " + words_of(marked.mark)},
                   source.id, marked.face.primary);
        for (Variant& v : next.variants) changed = variant(source, v) || changed;
        if (!changed) return std::nullopt;
        return next;
    }

    bool variant(const Part& source, Variant& variant) {
        std::map<std::string, std::string> numbers;
        bool changed = false;
        Place place{.in = Place::In::Variant,
                    .part = source.id,
                    .name = variant.name,
                    .words = source.name + ", variant " + variant.name};
        for (const auto& [key, text] : variant.numbers) {
            size_t dot = key.find('.');
            const Step* step = dot == std::string::npos ? nullptr : step_called(source, key.substr(0, dot));
            const StepKind* kind = step ? find_step_kind(step->kind) : nullptr;
            const StepField* field = kind ? kind->field(key.substr(dot + 1)) : nullptr;
            std::string now = key, value = text;
            if (dot == std::string::npos)
                changed = put(now, reference({place, RefersTo::Parameter, key, {}, {}})) || changed;
            else
                reference({place, RefersTo::Step, key.substr(0, dot), source.id, step ? step->id : StepId()});
            if (dot == std::string::npos || (field && is_quantity(field->kind)))
                changed = put(value, expression(place, text)) || changed;
            else if (field && field->kind == FieldKind::Fit)
                changed = put(value, gap(place, text)) || changed;
            numbers[now] = value;
        }
        if (changed) variant.numbers = std::move(numbers);
        return changed;
    }

    bool movement(KeptMovement& m) {
        Place place{
            .in = Place::In::Movement, .movement = m.id, .name = "moving", .words = "the movement of " + m.moving};
        bool changed = put(m.moving, participant(place, m.moving));
        place.name = "still";
        changed =
            put(m.still, in_list(m.still, ", ", [&](const std::string& one) { return participant(place, one); })) ||
            changed;
        if (m.axis) {
            place.name = "axis";
            thing(place, *m.axis);
        }
        auto number = [&](std::string& text, const char* name) {
            place.name = name;
            changed = put(text, expression(place, text)) || changed;
        };
        for (std::string& text : m.point) number(text, "point");
        for (std::string& text : m.direction) number(text, "direction");
        number(m.from, "from");
        number(m.to, "to");
        number(m.step, "step");
        number(m.pitch, "pitch");
        if (!m.stands.empty()) number(m.stands, "stands");
        return changed;
    }

    /// The part whose steps and bodies a field names: its own, or that of the field it says.
    PartPtr named_by(const StepField& field) {
        if (field.of.empty()) return nullptr;
        const StepField* source = kind_->field(field.of);
        return source ? project_.part_named(field_text(*step_, *source)) : nullptr;
    }

    std::optional<FieldValue> field(const StepField& field, const FieldValue& value) {
        if (field.kind == FieldKind::Drawing) return drawing(value);
        const std::string& text = value.text();
        PartPtr other = named_by(field);
        const Part* of = field.of.empty() ? part_ : other.get();
        NewText fresh;
        switch (field.kind) {
        case FieldKind::Fit:
            fresh = gap(place_, text);
            break;
        case FieldKind::Part:
            fresh = text.empty() ? std::nullopt : part_name(place_, text);
            break;
        case FieldKind::File:
            fresh = text.empty() ? std::nullopt : reference({place_, RefersTo::File, text, {}, {}});
            break;
        case FieldKind::Outline:
        case FieldKind::Outlines:
        case FieldKind::Steps:
        case FieldKind::StepName:
            fresh = in_list(text, ", ", [&](const std::string& one) { return step_name(place_, of, one); });
            break;
        case FieldKind::Bodies:
            fresh = in_list(text, ", ", [&](const std::string& one) -> NewText {
                bool word = one == "all" || std::count(field.choices.begin(), field.choices.end(), one);
                return word ? std::nullopt : body_name(place_, of, one);
            });
            break;
        case FieldKind::Regions:
            if (!text.empty() && text[0] == '(') fresh = expression(place_, text);
            break;
        case FieldKind::Plane:
        case FieldKind::Face:
        case FieldKind::Faces:
        case FieldKind::Edges:
            fresh = geometry(value);
            break;
        default:
            if (is_quantity(field.kind)) fresh = expression(place_, text);
        }
        if (!fresh) return std::nullopt;
        return FieldValue(std::move(*fresh));
    }

    /// Picked things, words that name a step at their end, or a place as three lengths.
    NewText geometry(const FieldValue& value) {
        std::vector<std::string> items;
        bool changed = false;
        for (const GeometryItem& item : value.geometry()) {
            items.push_back(item.text());
            if (item.is_picked()) {
                picked(place_, part_->id, item);
                continue;
            }
            size_t name = item.text().rfind(" of ");
            name = name != std::string::npos ? name + 4 : item.text().compare(0, 8, "made by ") == 0 ? 8 : name;
            if (name != std::string::npos) {
                if (auto fresh = step_name(place_, part_, item.text().substr(name))) {
                    items.back() = item.text().substr(0, name) + *fresh;
                    changed = true;
                }
            } else if (listed(item.text(), ',').size() == 3) {
                if (auto fresh =
                        in_list(item.text(), ", ", [&](const std::string& one) { return expression(place_, one); })) {
                    items.back() = *fresh;
                    changed = true;
                }
            }
        }
        return changed ? NewText(joined(items, "; ")) : std::nullopt;
    }

    std::optional<FieldValue> drawing(const FieldValue& value) {
        const Expected<Drawing>& read = value.drawing();
        if (!read) return std::nullopt;
        std::optional<Drawing> next;
        if (visitor_.expression) {
            std::vector<NewText> fresh;
            bool changed = false;
            for (const auto& [where, text] : drawing_expressions(*read)) {
                Place place = place_;
                place.words = begin_ + where;
                fresh.push_back(expression(place, *text));
                changed = changed || fresh.back();
            }
            if (changed) {
                next = *read;
                size_t i = 0;
                for (auto& [where, text] : drawing_expressions(*next)) put(*text, fresh[i++]);
            }
        }
        if (visitor_.reference)
            for (size_t i = 0; i < read->elements.size(); ++i)
                if (auto changed = element(read->elements[i])) {
                    if (!next) next = *read;
                    next->elements[i] = std::move(*changed);
                }
        if (!next) return std::nullopt;
        return FieldValue(std::move(*next));
    }

    /// Files, bodies seen and edges followed by an element of a drawing.
    std::optional<Element> element(const Element& source) {
        picked(place_, part_->id, source.follows);
        auto ask = [&](const char* name,
                       const std::function<NewText(const std::string&)>& one) -> std::optional<Element> {
            std::string text = element_text(source, name);
            NewText fresh = text.empty() ? std::nullopt : one(text);
            if (!fresh) return std::nullopt;
            Element next = source;
            next.texts[name] = *fresh;
            return next;
        };
        if (source.kind == ElementKind::Import)
            return ask("file", [&](const std::string& file) {
                return reference({place_, RefersTo::File, file, {}, {}});
            });
        if (source.kind == ElementKind::Silhouette)
            return ask("bodies", [&](const std::string& names) {
                return in_list(names, ", ", [&](const std::string& one) {
                    return one == "all" ? std::nullopt : body_name(place_, part_, one);
                });
            });
        return std::nullopt;
    }

    const Project& project_;
    const Visitor& visitor_;
    const Part* part_ = nullptr; ///< of the step being walked over
    const Step* step_ = nullptr;
    const StepKind* kind_ = nullptr;
    Place place_;
    std::string begin_; ///< "Bucket, step 3, "
};

template <class What> std::function<NewText(const What&)> reading(const std::function<void(const What&)>& call) {
    return [&call](const What& what) -> NewText {
        call(what);
        return std::nullopt;
    };
}

std::string step_words(const Part& part, StepId id) {
    for (size_t i = 0; i < part.steps.size(); ++i)
        if (part.steps[i].id == id)
            return "step " + std::to_string(i + 1) +
                   (part.steps[i].name.empty() ? std::string() : " (" + part.steps[i].name + ")");
    return "a step";
}

} // namespace

void each_expression(const Project& project, const std::function<void(const Expression&)>& call) {
    Walk(project, {reading(call), {}}).whole();
}

void each_expression(const Project& project, const Part& part, const Step& step,
                     const std::function<void(const Expression&)>& call) {
    Walk(project, {reading(call), {}}).step(part, step);
}

void each_reference(const Project& project, const std::function<void(const Reference&)>& call) {
    Walk(project, {{}, reading(call)}).whole();
}

void each_reference(const Project& project, const Part& part, const Step& step,
                    const std::function<void(const Reference&)>& call) {
    Walk(project, {{}, reading(call)}).step(part, step);
}

Project with_expressions(const Project& project, const std::function<NewText(const Expression&)>& call) {
    return Walk(project, {call, {}}).whole().value_or(project);
}

Project with_references(const Project& project, const std::function<NewText(const Reference&)>& call) {
    return Walk(project, {{}, call}).whole().value_or(project);
}

Step with_references(const Project& project, const Part& part, const Step& step,
                     const std::function<NewText(const Reference&)>& call) {
    return Walk(project, {{}, call}).step(part, step).value_or(step);
}

std::map<std::string, std::vector<std::string>> uses_of_parameters(const Project& project) {
    std::map<std::string, std::vector<std::string>> uses;
    each_expression(project, [&](const Expression& e) {
        for (const std::string& name : names_in_expression(e.text)) {
            std::vector<std::string>& places = uses[name];
            if (places.empty() || std::find(places.begin(), places.end(), e.place.words) == places.end())
                places.push_back(e.place.words);
        }
    });
    return uses;
}

std::vector<std::string> uses_of_parameter(const Project& project, const std::string& name) {
    return uses_of_parameters(project)[name];
}

std::vector<std::string> uses_of_part(const Project& project, const Part& part) {
    std::vector<std::string> uses;
    each_reference(project, [&](const Reference& r) {
        if (r.to == RefersTo::Part && r.part == part.id && r.place.in == Place::In::Step && r.place.part != part.id)
            if (std::string step = r.place.words.substr(0, r.place.words.rfind(", "));
                std::find(uses.begin(), uses.end(), step) == uses.end())
                uses.push_back(step);
    });
    return uses;
}

std::vector<StepId> steps_used_by(const Project& project, const Part& part, const Step& step) {
    std::vector<StepId> used;
    each_reference(project, part, step, [&](const Reference& r) {
        bool here = r.part == part.id && r.step && r.step != step.id && part.step(r.step);
        if (here && std::find(used.begin(), used.end(), r.step) == used.end()) used.push_back(r.step);
    });
    return used;
}

std::optional<Problem> check_move(const Project& project, const Part& part, StepId step, size_t index) {
    std::vector<StepId> order;
    for (const Step& s : part.steps)
        if (s.id != step) order.push_back(s.id);
    order.insert(order.begin() + long(std::min(index, order.size())), step);
    auto place = [&](StepId id) { return std::find(order.begin(), order.end(), id) - order.begin(); };
    for (const Step& s : part.steps)
        for (StepId used : steps_used_by(project, part, s)) {
            bool now_after = place(used) > place(s.id), concerns = s.id == step || used == step;
            if (!now_after || !concerns) continue;
            return Problem{ProblemCode::Missing,
                           "It cannot go there: " + step_words(part, s.id) + " uses " + step_words(part, used) +
                               ", which has to come before it.",
                           "Move that one first, or let it refer to something else."};
        }
    return std::nullopt;
}

std::vector<std::string> files_named(const Project& project) {
    std::vector<std::string> files;
    each_reference(project, [&](const Reference& r) {
        if (r.to == RefersTo::File && std::find(files.begin(), files.end(), r.name) == files.end())
            files.push_back(r.name);
    });
    return files;
}

} // namespace lp
