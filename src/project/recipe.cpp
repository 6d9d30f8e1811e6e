#include "project/recipe.h"
#include "base/quantity.h"
#include "formats/formats.h"

namespace lp {
namespace {

std::string field_of(const Step& step, const char* name) {
    const StepKind* kind = find_step_kind(step.kind);
    const StepField* field = kind ? kind->field(name) : nullptr;
    return field ? field_text(step, *field) : std::string();
}

/// A typed length and so much more: a plain number stays one.
std::string moved_by(const std::string& typed, double by_mm) {
    constexpr double nothing_mm = 1e-6;
    if (std::fabs(by_mm) < nothing_mm) return typed;
    if (auto plain = evaluate_expression(typed, QuantityKind::Length, {}))
        return format_quantity(*plain + by_mm, QuantityKind::Length, 6);
    return "(" + typed + ") + " + format_quantity(by_mm, QuantityKind::Length, 6);
}

Expected<Box3> box_of(const NamedFile& file) {
    auto mesh = read_triangles(file.name, *file.bytes);
    if (!mesh) {
        Problem why = mesh.error();
        why.sentence = file.name + ": " + why.sentence;
        return pass_on(why);
    }
    if (mesh->empty())
        return problem(ProblemCode::File, file.name + ": There is nothing in it.", "Choose a file with a body.");
    return bounding_box(*mesh);
}

/// The fields of the import step that change: the file, and where it stands.
Expected<std::vector<std::pair<std::string, std::string>>> fields_for(const Project& project, const Step& step,
                                                                      const Box3& was, const NamedFile& file,
                                                                      const std::string& stored) {
    auto is = box_of(file);
    if (!is) return pass_on(is);
    const auto values = project_values(project);
    if (!values) return pass_on(values);
    auto scale = evaluate_expression(field_of(step, "scale"), QuantityKind::Number, *values);
    if (!scale) return pass_on(scale);
    Vec3 by = was.center() - is->center();
    by.z() = was.min().z() - is->min().z();
    std::vector<std::pair<std::string, std::string>> fields{{"file", stored}};
    const char* names[] = {"at_x", "at_y", "at_z"};
    for (int k = 0; k < 3; ++k) fields.emplace_back(names[k], moved_by(field_of(step, names[k]), by[k] * *scale));
    return fields;
}

/// A part that begins with a file, and the box of what is in the file.
struct Begun {
    PartPtr part;
    const Step* step = nullptr;
    Box3 box;
};
Expected<Begun> begun_with_file(const Project& project, PartId id) {
    const PartPtr part = project.part(id);
    const Step* step = part ? import_step(*part) : nullptr;
    if (!step)
        return problem(ProblemCode::Missing, "The part does not begin with a file.",
                       "Choose a part that was brought in.");
    const std::string file = field_of(*step, "file");
    const auto found = project.imports.find(file);
    if (found == project.imports.end() || !found->second)
        return problem(ProblemCode::File, "The file \"" + file + "\" is not in the project.", "Bring it in again.");
    auto box = box_of({file, found->second});
    if (!box) return pass_on(box);
    return Begun{part, step, *box};
}

/// "round-foot-2.stl": "round foot 2".
std::string part_name_of(const std::string& file) {
    std::string name = std::filesystem::path(file).stem().string();
    std::replace(name.begin(), name.end(), '-', ' ');
    return name;
}

} // namespace

const Step* import_step(const Part& part) {
    for (const Step& step : part.steps)
        if (step.kind == "bring_in") return &step;
    return nullptr;
}

std::string free_file_name(const Project& project, const std::string& name, const std::string& bytes) {
    std::string free = name;
    auto taken = [&] {
        const auto there = project.imports.find(free);
        return there != project.imports.end() && there->second && *there->second != bytes;
    };
    for (int n = 2; taken(); ++n) free = std::to_string(n) + "-" + name;
    return free;
}

Expected<Edit> replaced_file(const Project& project, PartId id, const NamedFile& file) {
    const auto begun = begun_with_file(project, id);
    if (!begun) return pass_on(begun);
    const Step* step = begun->step;
    const std::string stored = free_file_name(project, file.name, *file.bytes);
    auto fields = fields_for(project, *step, begun->box, file, stored);
    if (!fields) return pass_on(fields);
    Edit edit;
    edit.parts.push_back(AddImport{stored, file.bytes});
    for (const auto& [name, text] : *fields) edit.parts.push_back(SetField{id, step->id, name, text});
    edit.sentence = "Put " + file.name + " in the place of " + field_of(*step, "file");
    return edit;
}

Expected<Siblings> same_steps_for(const Project& project, PartId id, const std::vector<NamedFile>& files,
                                  const Task& task) {
    const auto begun = begun_with_file(project, id);
    if (!begun) return pass_on(begun);
    const auto& [part, step, box] = *begun;
    Siblings made;
    Project grown = project; // with the names that were given so far
    for (const NamedFile& file : files) {
        if (task.stopped()) return cancelled();
        const std::string stored = free_file_name(grown, file.name, *file.bytes);
        auto fields = fields_for(project, *step, box, file, stored);
        if (!fields) {
            made.left_out.push_back(fields.error().text());
            continue;
        }
        Part copy = *part;
        copy.id = {};
        copy.name = free_part_name(grown, part_name_of(file.name));
        for (Step& s : copy.steps)
            if (s.id == step->id)
                for (const auto& [name, text] : *fields) s.fields[name] = text;
        grown.imports[stored] = file.bytes;
        grown.parts.push_back(std::make_shared<const Part>(copy));
        made.parts.push_back(copy.name);
        made.edit.parts.push_back(AddImport{stored, file.bytes});
        made.edit.parts.push_back(AddPart{std::move(copy)});
    }
    made.edit.sentence = "The steps of " + part->name + " for " + std::to_string(made.parts.size()) + " more files";
    return made;
}

} // namespace lp
