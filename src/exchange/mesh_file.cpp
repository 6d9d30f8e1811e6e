#include "exchange/mesh_file.h"
#include "base/quantity.h"
#include "exchange/obj.h"
#include "exchange/stl.h"
#include "exchange/threemf.h"
#include "project/archive.h"

namespace lp {
namespace {

std::string ending(const std::filesystem::path& path) {
    std::string text = path.extension().string();
    for (char& c : text) c = char(std::tolower(static_cast<unsigned char>(c)));
    return text.empty() ? text : text.substr(1);
}

bool looks_like_obj(const std::string& bytes) {
    // A vertex line near the beginning.
    std::string_view head = std::string_view(bytes).substr(0, 20000);
    return head.rfind("v ", 0) == 0 || head.find("\nv ") != std::string_view::npos;
}

} // namespace

Expected<TriMesh> read_mesh_bytes(const std::string& file_name, const std::string& bytes) {
    std::string type = ending(file_name);
    if (type == "obj" || (type != "stl" && looks_like_obj(bytes))) return read_obj(bytes);
    return read_stl(bytes);
}

Expected<ReadMesh> read_mesh_file(const std::filesystem::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return tl::make_unexpected(bytes.error());
    ReadMesh result;
    if (bytes->rfind("PK", 0) == 0 || (ending(path) == "3mf" && bytes->size() < 84)) {
        auto objects = read_3mf(path);
        if (!objects) return tl::make_unexpected(objects.error());
        result.format = "3mf";
        result.objects = objects->size();
        for (const ThreemfObject& object : *objects) append(result.mesh, object.mesh);
        if (result.mesh.empty()) return problem(ProblemCode::File, "It holds no facets.", "Choose another file.");
        return result;
    }
    bool obj = ending(path) == "obj" || (ending(path) != "stl" && looks_like_obj(*bytes));
    if (!obj && ending(path) != "stl" && ending(path) != "" && ending(path) != "3mf" && bytes->rfind("solid", 0) != 0)
        return problem(ProblemCode::File, "Files ending in ." + ending(path) + " are not read here.",
                       "Use STL, OBJ or 3MF.");
    auto mesh = obj ? read_obj(*bytes) : read_stl(*bytes);
    if (!mesh) return tl::make_unexpected(mesh.error());
    result.format = obj ? "obj" : "stl";
    result.mesh = std::move(*mesh);
    return result;
}

std::string output_format(const std::filesystem::path& path) {
    std::string type = ending(path);
    return type == "stl" || type == "obj" || type == "3mf" ? type : "";
}

std::optional<Problem> write_mesh_file(const std::filesystem::path& path, const TriMesh& mesh,
                                       const std::string& name) {
    std::string type = output_format(path);
    if (mesh.empty()) return Problem{ProblemCode::Geometry, "There is nothing to write.", "", {}, {}};
    if (type == "3mf") return write_3mf(path, {{name, mesh, false}}, name);
    if (type == "obj") return write_file_safely(path, write_obj({{name, &mesh}}));
    if (type == "stl") return write_file_safely(path, write_stl_binary(mesh));
    return Problem{ProblemCode::File,
                   "Files ending in \"" + path.extension().string() + "\" are not written here.",
                   "Use .stl, .obj or .3mf.",
                   {},
                   {}};
}

ReadBack compare_meshes(const std::filesystem::path& file, const std::string& name, const TriMesh& read,
                        const TriMesh& meant) {
    ReadBack back;
    back.file = file;
    back.name = name;
    back.triangles = read.triangles.size();
    back.triangles_meant = meant.triangles.size();
    back.volume_mm3 = mass_properties(read).volume_mm3;
    back.volume_meant_mm3 = mass_properties(meant).volume_mm3;
    back.size = read.empty() ? Vec3(0, 0, 0) : Vec3(bounding_box(read).sizes());
    back.size_meant = meant.empty() ? Vec3(0, 0, 0) : Vec3(bounding_box(meant).sizes());
    // Single precision in STL and 3MF: seven digits of each coordinate.
    double volume_slack = std::max(1e-3, 1e-5 * std::fabs(back.volume_meant_mm3));
    back.same = back.triangles == back.triangles_meant && (back.size - back.size_meant).cwiseAbs().maxCoeff() < 1e-3 &&
                std::fabs(back.volume_mm3 - back.volume_meant_mm3) < volume_slack;
    back.says = std::to_string(back.triangles) + " facets, " + format_number(back.size.x(), 2) + " x " +
                format_number(back.size.y(), 2) + " x " + format_number(back.size.z(), 2) + " mm, " +
                format_number(back.volume_mm3 / 1000, 2) + " cm³";
    if (!back.same)
        back.says += "; meant were " + std::to_string(back.triangles_meant) + " facets and " +
                     format_number(back.volume_meant_mm3 / 1000, 2) + " cm³";
    return back;
}

} // namespace lp
