#include "handoff/export_project.h"
#include "base/files.h"
#include "base/tolerance.h"
#include <algorithm>
#include <cctype>
#include <set>

namespace lp {
namespace {

constexpr double room_between_mm = 6;

/// Rows from the front left of the bed: simple, and nothing overlaps.
std::vector<Vec3> places_in_rows(const std::vector<Vec3>& sizes, const Vec3& bed) {
    std::vector<Vec3> places;
    double x = 0, y = 0, row = 0;
    for (const Vec3& size : sizes) {
        if (x > 0 && x + size.x() > bed.x()) {
            x = 0;
            y += row + room_between_mm;
            row = 0;
        }
        places.push_back({x + size.x() / 2, y + size.y() / 2, 0});
        x += size.x() + room_between_mm;
        row = std::max(row, size.y());
    }
    return places;
}

uint32_t colour_number(const std::string& colour) {
    if (colour.size() == 7 && colour[0] == '#') return uint32_t(std::strtoul(colour.c_str() + 1, nullptr, 16));
    return 0xd69b48;
}

Expected<TriMesh> mesh_at(const PartResult& part, double deflection) {
    if (std::fabs(deflection - tolerance::export_deflection_mm) < 1e-9 || !part.exact) return *part.mesh;
    TriMesh mesh;
    for (const StepBody& body : part.bodies) {
        auto t = tessellate(body.body, deflection);
        if (!t) return pass_on(t);
        append(mesh, t->mesh);
    }
    return mesh;
}

/// One file for all parts, every copy in a place of its own, read back and compared.
Expected<std::vector<ReadBack>> write_together(const Evaluation& evaluation, const std::vector<ExportItem>& items,
                                               const std::filesystem::path& path) {
    std::vector<Vec3> sizes;
    std::vector<const ExportItem*> copies;
    for (const ExportItem& item : items)
        for (int k = 0; k < item.quantity; ++k) {
            Box3 box = bounding_box(item.mesh);
            if (!item.supports.empty()) box.extend(bounding_box(item.supports));
            sizes.push_back(box.sizes());
            copies.push_back(&item);
        }
    auto places = places_in_rows(sizes, evaluation.project->printer.bed_mm);
    std::vector<FileObject> objects;
    std::map<std::string, int> count;
    for (size_t i = 0; i < copies.size(); ++i) {
        Transform move = Transform::Identity();
        move.translate(places[i]);
        int n = ++count[copies[i]->name];
        std::string name = copies[i]->quantity > 1 ? copies[i]->name + " " + std::to_string(n) : copies[i]->name;
        objects.push_back(
            {.name = name, .mesh = transformed(copies[i]->mesh, move), .colour = colour_number(copies[i]->colour)});
        if (!copies[i]->supports.empty())
            objects.push_back({.name = name + " supports",
                               .mesh = transformed(copies[i]->supports, move),
                               .support = true,
                               .colour = 0xb8b2a4});
    }
    if (auto failed = write_objects(path, objects, evaluation.project->name)) return pass_on(*failed);
    auto bytes = read_file(path);
    auto read = bytes ? read_objects(path.filename().string(), *bytes) : pass_on(bytes);
    if (!read) return pass_on(read);
    std::vector<ReadBack> result;
    for (const FileObject& object : objects) {
        TriMesh none;
        auto found = std::find_if(read->objects.begin(), read->objects.end(),
                                  [&](const FileObject& o) { return o.name == object.name; });
        result.push_back(
            compare_meshes(path, object.name, found == read->objects.end() ? none : found->triangles(), object.mesh));
        result.back().support = object.support;
    }
    return result;
}

/// A file a part, supports beside it, each read back and compared.
Expected<std::vector<ReadBack>> write_apart(const std::vector<ExportItem>& items, const ExportOptions& options,
                                            const FileFormat& format, const Task& task) {
    std::vector<ReadBack> result;
    std::set<std::string> taken;
    for (const ExportItem& item : items)
        for (bool support : {false, true}) {
            const TriMesh& mesh = support ? item.supports : item.mesh;
            if (mesh.empty()) continue;
            if (task.stopped()) return cancelled();
            std::string stem = file_name_of(item.name) + (support ? "-supports" : "");
            while (!taken.insert(stem).second) stem += "-2";
            auto path = options.folder / (stem + "." + format.endings.front());
            task.tell("Writing " + path.filename().string(), 0.8);
            if (auto failed = write_mesh_file(path, mesh, item.name)) return pass_on(*failed);
            auto read = read_mesh_file(path);
            if (!read) return pass_on(read);
            result.push_back(compare_meshes(path, item.name + (support ? " supports" : ""), read->mesh, mesh));
            result.back().support = support;
        }
    return result;
}

} // namespace

Expected<std::vector<ExportItem>> export_items(const Evaluation& evaluation, double deflection_mm, const Task& task) {
    std::vector<ExportItem> items;
    const Project& project = *evaluation.project;
    for (size_t i = 0; i < project.parts.size(); ++i) {
        const Part& part = *project.parts[i];
        const PartResult& made = evaluation.parts[i];
        if (part.stand_in || !made.mesh || part.quantity == 0) continue;
        if (task.stopped()) return cancelled();
        task.tell("Preparing " + part.name, 0.5 * double(i) / double(project.parts.size()));
        auto mesh = mesh_at(made, deflection_mm);
        if (!mesh) return pass_on(mesh);
        ExportItem item{
            part.name, transformed(*mesh, pose_of_part(part, made, evaluation.values)), {}, part.colour, part.quantity};
        item.mesh.tags.clear();
        if (part.supports.on) item.supports = make_posts(item.mesh, post_options(project, part), task).mesh;
        items.push_back(std::move(item));
    }
    if (items.empty())
        return problem(ProblemCode::Missing, "There is no part to export.",
                       "Stand-ins are never exported: add a part.");
    return items;
}

Expected<std::vector<ReadBack>> export_project(const Evaluation& evaluation, const ExportOptions& options,
                                               const Task& task) {
    auto items = export_items(evaluation, options.deflection_mm, task);
    if (!items) return pass_on(items);
    std::error_code error;
    std::filesystem::create_directories(options.folder, error);
    if (!std::filesystem::is_directory(options.folder, error))
        return problem(ProblemCode::File, "The folder \"" + options.folder.string() + "\" cannot be made.",
                       "Choose another.");
    std::vector<ReadBack> result;
    for (const std::string& id : options.formats) {
        if (task.stopped()) return cancelled();
        const FileFormat* format = find_format(id);
        if (!format || !format->write)
            return problem(ProblemCode::Wording, "There is no format \"" + id + "\" to write.",
                           "Use " + written_titles() + ".");
        task.tell(std::string("Writing ") + format->title, 0.6);
        std::string together = file_name_of(evaluation.project->name) + "." + format->endings.front();
        auto back = format->holds_many ? write_together(evaluation, *items, options.folder / together)
                                       : write_apart(*items, options, *format, task);
        if (!back) return back;
        result.insert(result.end(), back->begin(), back->end());
    }
    return result;
}

} // namespace lp
