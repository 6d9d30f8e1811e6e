#include "handoff/export_project.h"
#include "base/files.h"
#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "bed/stacked_mesh.h"
#include "handoff/bed_files.h"
#include "mesh/soundness.h"
#include "project/pauses.h"
#include <algorithm>
#include <cctype>
#include <cstdlib>
#include <future>
#include <mutex>
#include <set>

namespace lp {
namespace {

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

/// Of what a part is printed, and where its print stops.
std::vector<std::string> remarks_of(const Evaluation& evaluation, const Part& part,
                                    const std::vector<PartPause>& stops) {
    std::vector<std::string> remarks{part.name + ": of " + material_of(*evaluation.project, part).name + "."};
    for (const PartPause& pause : stops) remarks.push_back("Stop in " + part.name + ": " + pause.words() + ".");
    return remarks;
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
        all.push_back({item.name + " brim", file_name_of(item.name) + "-brim", item.brim, true});
        all.push_back({item.name + " raft", file_name_of(item.name) + "-raft", item.raft, true});
        for (Written& one : all) {
            if (one.mesh.empty()) continue;
            if (task.stopped()) return cancelled();
            if (item.quantity > 1)
                one.stem += std::string("-") + std::to_string(item.quantity) + "x"; // so many are to be printed
            while (!taken.insert(one.stem).second) one.stem += "-2";
            auto path = options.folder / (one.stem + "." + format.endings.front());
            task.tell("Writing " + path.filename().string(), 0.8);
            const FileObject object{.name = item.name, .mesh = one.mesh, .colour = colour_number(item.colour)};
            if (auto failed = write_objects(path, {object}, item.name, {.file_stem = one.stem}))
                return pass_on(*failed);
            auto read = read_mesh_file(path);
            if (!read) return pass_on(read);
            result.push_back(compare_meshes(path, one.name, read->mesh, one.mesh));
            result.back().support = one.support;
        }
    }
    return result;
}

/// Exact bodies as they stand in the design, once each, in one file; parts of triangles are told to be left out.
Expected<std::vector<ReadBack>> write_exact(const Evaluation& evaluation, const std::filesystem::path& path,
                                            const FileFormat& format, const Task& task) {
    std::vector<FileObject> objects;
    std::vector<ReadBack> result;
    for (size_t i = 0; i < evaluation.parts.size(); ++i) {
        const PartResult& made = evaluation.parts[i];
        const Part& part = *evaluation.project->parts[i];
        if (part.stand_in || made.bodies.empty() || part.quantity == 0) continue;
        if (task.stopped()) return cancelled();
        for (const StepBody& body : made.bodies) {
            const std::string name = made.bodies.size() == 1 ? part.name : part.name + ", " + body.called();
            if (!body.body.is_exact()) {
                ReadBack out;
                out.file = path;
                out.name = name;
                out.same = true;
                out.says = std::string("left out: it is of triangles, and ") + format.title + " holds exact bodies";
                result.push_back(std::move(out));
                continue;
            }
            auto placed = moved(body.body, made.place);
            if (!placed) return pass_on(placed);
            FileObject object;
            object.name = name;
            object.exact = std::move(*placed);
            object.colour = colour_number(part.colour);
            objects.push_back(std::move(object));
        }
    }
    if (objects.empty())
        return problem(ProblemCode::Geometry,
                       std::string("All its parts are of triangles: a ") + format.title + " file holds exact bodies.",
                       "Export them as 3MF, STL or OBJ.");
    if (auto failed = write_objects(path, objects, evaluation.project->name)) return pass_on(*failed);
    auto bytes = read_file(path);
    auto read = bytes ? read_objects(path.filename().string(), *bytes) : pass_on(bytes);
    if (!read) return pass_on(read);
    size_t next = 0; // a body of several pieces comes back as several
    for (const FileObject& object : objects) {
        const auto pieces = size_t(std::max(1, object.exact->pieces()));
        ReadBack back;
        if (pieces == 1 && next < read->objects.size()) {
            back = compare_bodies(path, object.name, *read->objects[next].exact, *object.exact);
            back.same = back.same && read->objects[next].name == object.name;
        } else {
            back.file = path;
            back.name = object.name;
            back.volume_meant_mm3 = object.exact->mass().volume_mm3;
            for (size_t k = next; k < std::min(next + pieces, read->objects.size()); ++k)
                back.volume_mm3 += read->objects[k].exact->mass().volume_mm3;
            back.same = std::fabs(back.volume_mm3 - back.volume_meant_mm3) < 1e-5 * back.volume_meant_mm3 + 1e-6;
            back.says = counted(pieces, "piece", "pieces") + ", " + format_number(back.volume_mm3 / 1000, 2) + " cm³";
        }
        next += pieces;
        result.push_back(std::move(back));
    }
    return result;
}

Expected<std::vector<ReadBack>> write_made_paper(const ExportPaper& paper, const std::filesystem::path& folder,
                                                 const Task& task) {
    auto bytes = paper.make(task);
    if (!bytes) return pass_on(bytes);
    ReadBack back;
    back.file = folder / paper.file_name;
    back.name = back.file.stem().string();
    if (auto failed = write_file_safely(back.file, *bytes)) return pass_on(*failed);
    const auto read = read_file(back.file);
    back.same = read && *read == *bytes;
    back.says = back.same ? format_number(double(bytes->size()) / 1000, 0) + " kB" : "it reads back differently";
    return std::vector{back};
}

/// Where a part so high is filled whatever its infill, as its layers will be.
TriMesh filled_places(const LayerOptions& layers, double height_mm, const Task& task) {
    if (layers.solids.empty()) return {};
    const size_t count = layers.heights.count(height_mm);
    const std::vector<Region> regions = solid_regions(layers.solids, layers.heights, 0, count, task);
    std::vector<double> heights;
    for (size_t k = 0; k <= count; ++k) heights.push_back(layers.heights.bottom(k));
    return stacked_mesh(regions, heights, task);
}

template <class Call> void each_mesh(ExportItem& item, Call call) {
    for (TriMesh* mesh : {&item.mesh, &item.supports, &item.brim, &item.raft, &item.filled}) call(*mesh);
    for (auto& [body, mesh] : item.apart) call(mesh);
}

void lift(ExportItem& item, double by_mm) {
    if (!(by_mm > 0)) return;
    each_mesh(item, [&](TriMesh& mesh) {
        for (Vec3& v : mesh.vertices) v.z() += by_mm;
    });
}

/// By what the plastic shrinks as it cools, so that it comes out to size.
void enlarge(ExportItem& item, const MaterialCard& material) {
    const double along = 1 / (1 - material.shrink_percent / 100), up = 1 / (1 - material.shrink_up_percent / 100);
    if (along == 1 && up == 1) return;
    each_mesh(item, [&](TriMesh& mesh) {
        for (Vec3& v : mesh.vertices) v = v.cwiseProduct(Vec3(along, along, up));
    });
}

} // namespace

BedPlan bed_plan_of(const Project& project, const std::vector<ExportItem>& items) {
    return bed_plan(project, [&](const Part& part, double turn_deg) {
        Box3 box;
        for (const ExportItem& item : items) {
            if (item.part != part.id) continue;
            for (const TriMesh* mesh : {&item.mesh, &item.supports, &item.raft, &item.brim})
                box.extend(turned_box(*mesh, turn_deg));
        }
        return box;
    });
}

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
        ExportItem item{part.id, part.name, transformed(*mesh, pose), {}, part.colour, in_place ? 1 : part.quantity};
        item.mesh.tags.clear();
        if (!in_place) {
            item.layers = layer_options(evaluation, part, pose);
            item.stops = pauses_of(evaluation, part.id, task);
            item.remarks = remarks_of(evaluation, part, item.stops);
            item.filled = filled_places(item.layers, height_of(item.mesh), task);
        }
        if (made.bodies.size() > 1 && !check_soundness(welded(item.mesh), {.self_intersections = false}, task).closed)
            item.apart = bodies_apart(made, deflection_mm, pose);
        if (part.supports.any() && !in_place) {
            // Of the facets that were checked and shown: those that are exported may be others.
            Supports supports = supports_of(evaluation, part, transformed(*made.mesh, pose), task);
            item.supports = std::move(supports.mesh);
            item.brim = std::move(supports.brim);
            item.raft = std::move(supports.raft);
            lift(item, supports.raft_mm);
        }
        enlarge(item, material_of(project, part));
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
    std::vector<const FileFormat*> formats;
    for (const std::string& id : options.formats) {
        formats.push_back(find_format(id));
        if (!formats.back() || !formats.back()->write)
            return problem(ProblemCode::Wording, "There is no format \"" + id + "\" to write.",
                           "Use " + written_titles() + ".");
    }
    std::mutex telling;
    Task shared = task;
    shared.progress = [&](const std::string& doing, double share) {
        const std::lock_guard lock(telling);
        task.tell(doing, share);
    };
    // Side by side: exact files wait for the kernel's helper most of the time.
    std::vector<std::future<Expected<std::vector<ReadBack>>>> writing;
    for (const FileFormat* format : formats)
        writing.push_back(std::async(std::launch::async, [&, format]() -> Expected<std::vector<ReadBack>> {
            if (shared.stopped()) return cancelled();
            shared.tell(std::string("Writing ") + format->title, 0.6);
            const std::string together = file_name_of(evaluation.project->name) + "." + format->endings.front();
            if (format->content == FileFormat::Content::Exact)
                return write_exact(evaluation, staged.folder / together, *format, shared);
            return format->holds_many ? write_beds(evaluation, *items, staged.folder / together, options.in_place)
                                      : write_apart(*items, staged, *format, shared);
        }));
    for (const ExportPaper& paper : options.papers)
        writing.push_back(std::async(std::launch::async, write_made_paper, paper, staged.folder, shared));
    std::vector<ReadBack> result;
    std::optional<Problem> not_written;
    for (auto& one : writing) {
        auto back = one.get(); // of all, whatever fails: they write into the folder
        if (!back)
            not_written = not_written ? not_written : back.error();
        else
            result.insert(result.end(), back->begin(), back->end());
    }
    if (not_written) return pass_on(*not_written);
    if (auto failed = staging.put_in_place()) return pass_on(*failed);
    for (ReadBack& back : result) back.file = options.folder / back.file.filename();
    return result;
}

} // namespace lp
