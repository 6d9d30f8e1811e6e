// Edits of how parts go together, and of the project as a whole: measurements, movements, versions.
#include "base/quantity.h"
#include "project/edit_applier.h"
#include "project/movement_check.h"
#include "project/project_json.h"
#include "project/versions.h"
#include <algorithm>
#include <nlohmann/json.hpp>

namespace lp {

void Applier::on(const KeepVersion& e) {
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

void Applier::on(const RemoveVersion& e) {
    if (std::erase_if(project_.versions, [&](const KeptVersion& v) { return v.name == e.name; }) == 0)
        return fail(missing("That version"));
    sentence_ = "Dropped the version " + e.name;
}

void Applier::on(const TakeFromVersion& e) {
    auto next = with_taken_over(project_, e.version, e.key);
    if (!next) return fail(next.error());
    project_ = std::move(*next);
    sentence_ = "Took " + e.key + " from " + e.version;
    if (auto numbers = values(); !numbers) fail(numbers.error());
}

void Applier::on(const SetAssembly& e) {
    for (auto id = e.parts.begin(); id != e.parts.end(); ++id) {
        if (!project_.part(*id)) return fail(missing("That part"));
        if (std::find(e.parts.begin(), id, *id) != id)
            return fail({ProblemCode::Wording, project_.part(*id)->name + " is put in twice.", "Name it once."});
    }
    project_.assembly = e.parts;
    sentence_ = e.parts.empty() ? "Let the order of assembly be worked out" : "Changed the order of assembly";
}

void Applier::on(const AddMeasure& e) {
    KeptMeasure measure = e.measure;
    if (!project_.part(measure.a.part) || (measure.b && !project_.part(measure.b->part)))
        return fail(missing("That part"));
    if (!measure.id) measure.id = MeasureId(project_.next_id++);
    project_.measures.push_back(measure);
    sentence_ = "Kept a measurement";
}

void Applier::on(const RemoveMeasure& e) {
    if (!std::erase_if(project_.measures, [&](const KeptMeasure& m) { return m.id == e.measure; }))
        return fail(missing("That measurement"));
    sentence_ = "Dropped a measurement";
}

void Applier::on(const SetContact& e) {
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

void Applier::check_movement_fields(const KeptMovement& m) {
    auto numbers = values();
    if (!numbers) return fail(numbers.error());
    auto path = movement_path(m, *numbers);
    if (!path) return fail(path.error());
    if (auto stands = stands_at(m, *path, *numbers); !stands) fail(stands.error());
}

void Applier::on(const AddMovement& e) {
    KeptMovement movement = e.movement;
    if (!movement.id) movement.id = MovementId(project_.next_id++);
    check_movement_fields(movement);
    project_.movements.push_back(movement);
    sentence_ = "Movement of " + movement.moving;
}

void Applier::on(const SetMovement& e) {
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

void Applier::on(const RemoveMovement& e) {
    if (!std::erase_if(project_.movements, [&](const KeptMovement& m) { return m.id == e.movement; }))
        return fail(missing("That movement"));
    sentence_ = "Dropped a movement";
}

void Applier::on(const SetProjectName& e) {
    const std::string name = trimmed(e.name);
    if (auto wrong = check_name(name, "A project")) return fail(*wrong);
    project_.name = name;
    sentence_ = "Project called " + name;
}

void Applier::on(const AddImport& e) {
    project_.imports[e.file] = e.contents;
    sentence_ = "Took in " + e.file;
}

} // namespace lp
