// Edits of parts: which there are, how they look and stand, their variants.
#include "base/quantity.h"
#include "project/edit_applier.h"
#include "project/references.h"
#include "project/way_out.h"
#include <algorithm>
#include <map>

namespace lp {

void Applier::on(const AddPart& e) {
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

void Applier::on(const RemovePart& e) {
    PartPtr gone = project_.part(e.part);
    if (!gone) return fail(missing("That part"));
    if (auto uses = uses_of_part(project_, *gone); !uses.empty())
        return fail(
            {ProblemCode::Range, gone->name + " is in use: " + joined(uses, "; ") + ".", "Remove those steps first."});
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

void Applier::on(const RenamePart& e) {
    PartPtr renamed = project_.part(e.part);
    if (!renamed) return fail(missing("That part"));
    const std::string name = trimmed(e.name), old = renamed->name;
    if (name == old) return;
    if (auto wrong = check_name(name, "A part")) return fail(*wrong);
    if (project_.part_named(name))
        return fail({ProblemCode::Wording, "There is already a part called \"" + name + "\".", "Choose another name."});
    project_ = with_references(project_, [&](const Reference& r) -> NewText {
        return r.to == RefersTo::Part && r.part == e.part ? NewText(name) : std::nullopt;
    });
    change_part(e.part, [&](Part& p) { p.name = name; });
    sentence_ = old + " is now called " + name;
}

void Applier::on(const SetQuantity& e) {
    if (e.quantity < 0 || e.quantity > 1000)
        return fail({ProblemCode::Range, "A quantity is 0 to 1000.", "Type such a number."});
    change_part(e.part, [&](Part& p) {
        p.quantity = e.quantity;
        sentence_ = std::to_string(e.quantity) + " of " + p.name;
    });
}

void Applier::on(const SetColour& e) {
    change_part(e.part, [&](Part& p) {
        p.colour = e.colour;
        sentence_ = "Colour of " + p.name;
    });
}

void Applier::on(const SetVisible& e) {
    change_part(e.part, [&](Part& p) {
        p.visible = e.visible;
        sentence_ = (e.visible ? "Showed " : "Hid ") + p.name;
    });
}

void Applier::on(const SetSeeThrough& e) {
    change_part(e.part, [&](Part& p) {
        p.see_through = e.see_through;
        sentence_ = p.name + (e.see_through ? " see-through" : " solid");
    });
}

void Applier::on(const SetStandIn& e) {
    change_part(e.part, [&](Part& p) {
        p.stand_in = e.stand_in;
        sentence_ = p.name + (e.stand_in ? " is a stand-in" : " is printed");
    });
}

void Applier::on(const SetFaceMarks& e) {
    change_part(e.part, [&](Part& p) {
        const bool fewer = e.marks.size() < p.marks.size() || e.marks.empty();
        sentence_ =
            fewer ? "Took a mark off " + p.name : "Marked a face of " + p.name + " as " + words_of(e.marks.back().mark);
        p.marks = e.marks;
    });
}

void Applier::on(const SetBrushed& e) {
    if (auto wrong = check_dabs(e.dabs)) return fail(*wrong);
    change_part(e.part, [&](Part& p) {
        const std::optional<FaceMark> mark = e.dabs.empty() ? std::nullopt : e.dabs.back().mark;
        sentence_ = mark ? "Brushed " + p.name + " as " + words_of(*mark) : "Wiped marks off " + p.name;
        p.brushed = e.dabs;
    });
}

void Applier::on(const SetLoad& e) {
    if (e.load && !(e.load->allFinite() && e.load->norm() > 1e-9))
        return fail({ProblemCode::Range, "A load needs a direction.", "Choose a flat face or a straight edge."});
    change_part(e.part, [&](Part& p) {
        p.load = e.load ? std::optional<Vec3>(e.load->normalized()) : std::nullopt;
        sentence_ = (p.load ? "Told how " : "Forgot how ") + p.name + " is pulled";
    });
}

void Applier::on(const SetPartMaterial& e) {
    if (e.material)
        if (auto wrong = check_card(*e.material)) return fail(*wrong);
    change_part(e.part, [&](Part& p) {
        p.material = e.material;
        sentence_ = p.name + " of " + material_of(project_, p).name;
    });
}

void Applier::on(const SetPlace& e) {
    auto numbers = values();
    if (!numbers) return fail(numbers.error());
    if (auto place = assembly_transform(e.place, *numbers); !place) return fail(place.error());
    const PartPtr placed = project_.part(e.part);
    for (const Seat& seat : e.place.seats) {
        if (auto gap = evaluate_expression(seat.gap, QuantityKind::Length, *numbers); !gap) return fail(gap.error());
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

void Applier::on(const KeepVariant& e) {
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

void Applier::on(const UseVariant& e) {
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

void Applier::on(const RemoveVariant& e) {
    change_part(e.part, [&](Part& p) {
        if (!std::erase_if(p.variants, [&](const Variant& v) { return v.name == e.name; }))
            return fail(no_such("variant of " + p.name, e.name, names_of(p.variants, &Variant::name)));
        sentence_ = "Dropped the variant " + e.name + " of " + p.name;
    });
}

void Applier::on(const SetWayOut& e) {
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

} // namespace lp
