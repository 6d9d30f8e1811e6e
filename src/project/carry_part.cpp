#include "project/carry_part.h"
#include "base/text.h"
#include "project/archive.h"
#include "project/recipe.h"
#include "project/references.h"
#include <set>

namespace lp {
namespace {

/// Names of the numbers that the part uses, and those they are worked out from.
std::set<std::string> numbers_of(const Project& project, PartId part) {
    std::set<std::string> names;
    std::vector<std::string> open;
    auto take = [&](const std::string& expression) {
        for (const std::string& name : names_in_expression(expression))
            if (names.insert(name).second) open.push_back(name);
    };
    each_expression(project, [&](const Expression& e) {
        if (e.place.part == part) take(e.text);
    });
    each_reference(project, [&](const Reference& r) {
        if (r.place.part == part && r.to == RefersTo::Parameter && names.insert(r.name).second) open.push_back(r.name);
    });
    while (!open.empty()) {
        const std::string name = open.back();
        open.pop_back();
        for (const Parameter& p : project.parameters)
            if (p.name == name) take(p.expression);
    }
    return names;
}

Problem no_part() {
    return {ProblemCode::Missing, "There is no such part.", "Choose one on the shelf."};
}

} // namespace

Expected<Edit> double_part(const Project& project, PartId id) {
    PartPtr part = project.part(id);
    if (!part) return pass_on(no_part());
    Part copy = *part;
    copy.id = {};
    copy.name = free_part_name(project, part->name);
    Edit edit = AddPart{copy};
    edit.sentence = "Doubled " + part->name + " as " + copy.name;
    return edit;
}

Expected<std::string> carried_part(const Project& project, PartId id) {
    PartPtr part = project.part(id);
    if (!part) return pass_on(no_part());
    Project alone;
    alone.name = part->name;
    alone.next_id = project.next_id;
    alone.parts = {part};
    alone.fits = project.fits;
    const auto names = numbers_of(project, id);
    for (const Parameter& p : project.parameters)
        if (names.count(p.name)) alone.parameters.push_back(p);
    for (const std::string& file : files_named(alone))
        if (auto found = project.imports.find(file); found != project.imports.end()) alone.imports.insert(*found);
    return project_to_bytes(alone);
}

Expected<Unpacked> unpacked_part(const Project& into, const std::string& bytes) {
    auto read = project_from_bytes(bytes);
    if (!read) return pass_on(read);
    Project from = std::move(*read);
    if (from.parts.empty())
        return problem(ProblemCode::Missing, "There is no part in what was copied.", "Copy one on the shelf first.");
    Unpacked unpacked;
    for (const Parameter& p : from.parameters) {
        auto here = std::find_if(into.parameters.begin(), into.parameters.end(),
                                 [&](const Parameter& other) { return other.name == p.name; });
        if (here == into.parameters.end()) {
            unpacked.edit.parts.push_back(SetParameter{p.name, p.expression, p.kind, p.note});
            if (!p.readings.values.empty()) unpacked.edit.parts.push_back(SetReadings{p.name, p.readings});
        } else if (here->expression != p.expression) {
            unpacked.notes.push_back(p.name + " is " + here->expression + " here, it was " + p.expression + ".");
        }
    }
    for (const NamedFit& fit : from.fits)
        if (const NamedFit* here = find_fit(into.fits, fit.name); here && here->gap_mm != fit.gap_mm)
            unpacked.notes.push_back("The fit " + fit.name + " is " + format_number(here->gap_mm, 2) +
                                     " mm here, it was " + format_number(fit.gap_mm, 2) + " mm.");
    std::map<std::string, std::string> other_names;
    for (const auto& [name, contents] : from.imports) {
        if (!contents) continue;
        const std::string free = free_file_name(into, name, *contents);
        if (free != name) other_names[name] = free;
        unpacked.edit.parts.push_back(AddImport{free, contents});
    }
    if (!other_names.empty())
        from = with_references(from, [&](const Reference& r) -> NewText {
            auto other = r.to == RefersTo::File ? other_names.find(r.name) : other_names.end();
            return other == other_names.end() ? std::nullopt : NewText(other->second);
        });
    std::vector<std::string> names;
    for (const PartPtr& part : from.parts) {
        Part copy = *part;
        copy.id = {};
        copy.name = free_part_name(into, part->name);
        names.push_back(copy.name);
        unpacked.edit.parts.push_back(AddPart{std::move(copy)});
    }
    unpacked.edit.sentence = "Put in " + joined(names);
    return unpacked;
}

} // namespace lp
