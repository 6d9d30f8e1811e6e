#include "handoff/export_project.h"
#include "base/files.h"
#include "base/tolerance.h"
#include "bed/bed_rows.h"
#include "mesh/soundness.h"
#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <set>

namespace lp {
namespace {

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

/// Each body by itself, where it is closed; nothing when one is not: then the parts of it are not the trouble.
std::vector<std::pair<std::string, TriMesh>> bodies_apart(const PartResult& part, double deflection,
                                                          const Transform& pose) {
    std::vector<std::pair<std::string, TriMesh>> apart;
    for (const StepBody& body : part.bodies) {
        auto fine = tessellate(body.body, deflection);
        if (!fine || !is_closed(fine->mesh)) return {};
        TriMesh mesh = transformed(fine->mesh, pose);
        mesh.tags.clear();
        apart.emplace_back(part.name + ", " + body.called(), std::move(mesh));
    }
    return apart;
}

/// One file a bed, every copy in a place of its own, read back and compared. In place: one file.
Expected<std::vector<ReadBack>> write_together(const Evaluation& evaluation, const std::vector<ExportItem>& items,
                                               const std::filesystem::path& path, bool in_place) {
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
    if (in_place) places.assign(copies.size(), {});
    std::vector<std::vector<FileObject>> beds(places.empty() ? 1 : places.back().bed + 1);
    std::map<std::string, int> count;
    for (size_t i = 0; i < copies.size(); ++i) {
        Transform move = Transform::Identity();
        move.translate(places[i].at);
        int n = ++count[copies[i]->name];
        std::string name = copies[i]->quantity > 1 ? copies[i]->name + " " + std::to_string(n) : copies[i]->name;
        std::vector<FileObject>& objects = beds[places[i].bed];
        const uint32_t colour = colour_number(copies[i]->colour);
        for (const auto& [body, mesh] : copies[i]->apart)
            objects.push_back({.name = copies[i]->quantity > 1 ? body + " " + std::to_string(n) : body,
                               .mesh = transformed(mesh, move),
                               .colour = colour});
        if (copies[i]->apart.empty())
            objects.push_back({.name = name, .mesh = transformed(copies[i]->mesh, move), .colour = colour});
        if (!copies[i]->supports.empty())
            objects.push_back({.name = name + " supports",
                               .mesh = transformed(copies[i]->supports, move),
                               .support = true,
                               .colour = 0xb8b2a4});
    }
    std::vector<ReadBack> result;
    for (size_t bed = 0; bed < beds.size(); ++bed) {
        std::filesystem::path file = path;
        if (bed > 0)
            file.replace_filename(path.stem().string() + "-bed-" + std::to_string(bed + 1) + path.extension().string());
        if (auto failed = write_objects(file, beds[bed], evaluation.project->name)) return pass_on(*failed);
        auto bytes = read_file(file);
        auto read = bytes ? read_objects(file.filename().string(), *bytes) : pass_on(bytes);
        if (!read) return pass_on(read);
        for (const FileObject& object : beds[bed]) {
            TriMesh none;
            auto found = std::find_if(read->objects.begin(), read->objects.end(),
                                      [&](const FileObject& o) { return o.name == object.name; });
            result.push_back(compare_meshes(file, object.name, found == read->objects.end() ? none : found->triangles(),
                                            object.mesh));
            result.back().support = object.support;
        }
    }
    return result;
}

/// A file a part, supports beside it, each read back and compared.
Expected<std::vector<ReadBack>> write_apart(const std::vector<ExportItem>& items, const ExportOptions& options,
                                            const FileFormat& format, const Task& task) {
    std::vector<ReadBack> result;
    std::set<std::string> taken;
    for (const ExportItem& item : items) {
        struct Written {
            std::string name, stem;
            const TriMesh& mesh;
            bool support;
        };
        std::vector<Written> all;
        for (const auto& [body, mesh] : item.apart) all.push_back({body, file_name_of(body), mesh, false});
        if (item.apart.empty()) all.push_back({item.name, file_name_of(item.name), item.mesh, false});
        all.push_back({item.name + " supports", file_name_of(item.name) + "-supports", item.supports, true});
        for (Written& one : all) {
            if (one.mesh.empty()) continue;
            if (task.stopped()) return cancelled();
            while (!taken.insert(one.stem).second) one.stem += "-2";
            auto path = options.folder / (one.stem + "." + format.endings.front());
            task.tell("Writing " + path.filename().string(), 0.8);
            if (auto failed = write_mesh_file(path, one.mesh, item.name)) return pass_on(*failed);
            auto read = read_mesh_file(path);
            if (!read) return pass_on(read);
            result.push_back(compare_meshes(path, one.name, read->mesh, one.mesh));
            result.back().support = one.support;
        }
    }
    return result;
}

} // namespace

Expected<std::vector<ExportItem>> export_items(const Evaluation& evaluation, double deflection_mm, const Task& task,
                                               bool in_place) {
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
        const Transform pose = in_place ? made.place : pose_of_part(part, made, evaluation.values);
        ExportItem item{part.name, transformed(*mesh, pose), {}, part.colour, in_place ? 1 : part.quantity};
        item.mesh.tags.clear();
        if (made.bodies.size() > 1 && !check_soundness(welded(item.mesh), {.self_intersections = false}, task).closed)
            item.apart = bodies_apart(made, deflection_mm, pose);
        if (part.supports.on && !in_place)
            item.supports = make_posts(item.mesh, post_options(project, part), task).mesh;
        items.push_back(std::move(item));
    }
    if (items.empty())
        return problem(ProblemCode::Missing, "There is no part to export.",
                       "Stand-ins are never exported: add a part.");
    return items;
}

namespace {

/// A folder beside the files' own until all of them are written; gone in the end, whatever happens.
class Staging {
  public:
    explicit Staging(const std::filesystem::path& folder) : folder_(folder) {
        std::error_code error;
        existed_ = std::filesystem::is_directory(folder, error);
        std::filesystem::create_directories(folder, error);
        std::string pattern = (folder / ".writing-XXXXXX").string();
        if (mkdtemp(pattern.data())) staged_ = pattern;
    }
    ~Staging() {
        std::error_code error;
        if (!staged_.empty()) std::filesystem::remove_all(staged_, error);
        if (!existed_) std::filesystem::remove(folder_, error); // where nothing is in it
    }
    const std::filesystem::path& path() const { return staged_; }
    /// Moves what was written to where it belongs; what was moved goes again when one cannot be.
    std::optional<Problem> put_in_place() {
        std::error_code error;
        std::vector<std::filesystem::path> moved;
        for (const auto& entry : std::filesystem::directory_iterator(staged_, error)) {
            const auto to = folder_ / entry.path().filename();
            const bool fresh = !std::filesystem::exists(to, error);
            std::filesystem::rename(entry.path(), to, error);
            if (!error) {
                if (fresh) moved.push_back(to);
                continue;
            }
            const std::string why = error.message();
            for (const auto& gone : moved) std::filesystem::remove(gone, error);
            return Problem{ProblemCode::File, quoted(to) + " could not be written: " + why + ".",
                           "Choose another folder."};
        }
        return std::nullopt;
    }

  private:
    std::filesystem::path folder_, staged_;
    bool existed_ = false;
};

} // namespace

Expected<std::vector<ReadBack>> export_project(const Evaluation& evaluation, const ExportOptions& options,
                                               const Task& task) {
    auto items = export_items(evaluation, options.deflection_mm, task, options.in_place);
    if (!items) return pass_on(items);
    Staging staging(options.folder);
    if (staging.path().empty())
        return problem(ProblemCode::File,
                       "The folder \"" + options.folder.string() + "\" cannot be made or written to.",
                       "Choose another.");
    ExportOptions staged = options;
    staged.folder = staging.path();
    std::vector<ReadBack> result;
    for (const std::string& id : options.formats) {
        if (task.stopped()) return cancelled();
        const FileFormat* format = find_format(id);
        if (!format || !format->write)
            return problem(ProblemCode::Wording, "There is no format \"" + id + "\" to write.",
                           "Use " + written_titles() + ".");
        task.tell(std::string("Writing ") + format->title, 0.6);
        std::string together = file_name_of(evaluation.project->name) + "." + format->endings.front();
        auto back = format->holds_many ? write_together(evaluation, *items, staged.folder / together, options.in_place)
                                       : write_apart(*items, staged, *format, task);
        if (!back) return back;
        result.insert(result.end(), back->begin(), back->end());
    }
    if (auto failed = staging.put_in_place()) return pass_on(*failed);
    for (ReadBack& back : result) back.file = options.folder / back.file.filename();
    return result;
}

} // namespace lp
