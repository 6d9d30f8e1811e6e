#include "exchange/export_project.h"
#include "base/tolerance.h"
#include "exchange/obj.h"
#include "exchange/stl.h"
#include "exchange/threemf.h"
#include "project/archive.h"
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
        if (!t) return tl::make_unexpected(t.error());
        append(mesh, t->mesh);
    }
    return mesh;
}

Expected<std::vector<ReadBack>> write_one_3mf(const Evaluation& evaluation, const std::vector<ExportItem>& items,
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
    std::vector<ThreemfObject> objects;
    std::map<std::string, int> count;
    for (size_t i = 0; i < copies.size(); ++i) {
        Transform move = Transform::Identity();
        move.translate(places[i]);
        int n = ++count[copies[i]->name];
        std::string name = copies[i]->quantity > 1 ? copies[i]->name + " " + std::to_string(n) : copies[i]->name;
        objects.push_back({name, transformed(copies[i]->mesh, move), false, colour_number(copies[i]->colour)});
        if (!copies[i]->supports.empty())
            objects.push_back({name + " supports", transformed(copies[i]->supports, move), true, 0xb8b2a4});
    }
    if (auto failed = write_3mf(path, objects, evaluation.project->name)) return tl::make_unexpected(*failed);
    auto read = read_3mf(path);
    if (!read) return tl::make_unexpected(read.error());
    std::vector<ReadBack> result;
    for (size_t i = 0; i < objects.size(); ++i) {
        TriMesh none;
        auto found =
            std::find_if(read->begin(), read->end(), [&](const ThreemfObject& o) { return o.name == objects[i].name; });
        result.push_back(
            compare_meshes(path, objects[i].name, found == read->end() ? none : found->mesh, objects[i].mesh));
        result.back().support = objects[i].support;
    }
    return result;
}

} // namespace

std::string file_name_of(const std::string& name) {
    std::string result;
    for (char c : name) {
        auto u = static_cast<unsigned char>(c);
        if (std::isalnum(u) || c == '-' || c == '_' || u >= 0x80)
            result += c;
        else if (!result.empty() && result.back() != '-')
            result += '-';
    }
    while (!result.empty() && result.back() == '-') result.pop_back();
    return result.empty() ? "part" : result;
}

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
        if (!mesh) return tl::make_unexpected(mesh.error());
        ExportItem item{
            part.name, transformed(*mesh, pose_of_part(part, made, evaluation.values)), {}, part.colour, part.quantity};
        item.mesh.tags.clear();
        if (part.supports.on) {
            PostOptions posts = part.supports.posts;
            posts.overhang_limit_deg = project.printer.overhang_limit_deg;
            item.supports = make_posts(item.mesh, posts, task).mesh;
        }
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
    if (!items) return tl::make_unexpected(items.error());
    std::error_code error;
    std::filesystem::create_directories(options.folder, error);
    if (!std::filesystem::is_directory(options.folder, error))
        return problem(ProblemCode::File, "The folder \"" + options.folder.string() + "\" cannot be made.",
                       "Choose another.");
    std::vector<ReadBack> result;
    for (const std::string& format : options.formats) {
        if (task.stopped()) return cancelled();
        if (format == "3mf") {
            task.tell("Writing 3MF", 0.6);
            auto back =
                write_one_3mf(evaluation, *items, options.folder / (file_name_of(evaluation.project->name) + ".3mf"));
            if (!back) return back;
            result.insert(result.end(), back->begin(), back->end());
            continue;
        }
        std::set<std::string> taken;
        for (const ExportItem& item : *items)
            for (bool support : {false, true}) {
                const TriMesh& mesh = support ? item.supports : item.mesh;
                if (mesh.empty()) continue;
                if (task.stopped()) return cancelled();
                std::string stem = file_name_of(item.name) + (support ? "-supports" : "");
                while (!taken.insert(stem).second) stem += "-2";
                auto path = options.folder / (stem + "." + format);
                task.tell("Writing " + path.filename().string(), 0.8);
                if (auto failed = write_mesh_file(path, mesh, item.name)) return tl::make_unexpected(*failed);
                auto read = read_mesh_file(path);
                if (!read) return tl::make_unexpected(read.error());
                result.push_back(compare_meshes(path, item.name + (support ? " supports" : ""), read->mesh, mesh));
                result.back().support = support;
            }
    }
    return result;
}

} // namespace lp
