#include "formats/formats.h"
#include "base/quantity.h"
#include "base/text.h"
#include <algorithm>

namespace lp {

// Every format, a line each; its own file defines NAME_format(). Where contents fit several, the first is taken.
FileFormat threemf_format();
FileFormat stl_format();
FileFormat obj_format();
FileFormat ply_format();
FileFormat step_format();
FileFormat brep_format();
FileFormat svg_format();
FileFormat dxf_format();
FileFormat picture_format();

const std::vector<FileFormat>& file_formats() {
    static const std::vector<FileFormat> formats{threemf_format(), stl_format(),  obj_format(),
                                                 ply_format(),     step_format(), brep_format(),
                                                 svg_format(),     dxf_format(),  picture_format()};
    return formats;
}

namespace {

/// "STL, OBJ or 3MF".
std::string in_words(const std::vector<std::string>& titles) {
    if (titles.size() < 2) return joined(titles);
    return joined({titles.begin(), titles.end() - 1}) + " or " + titles.back();
}

bool has_ending(const FileFormat& format, const std::string& ending) {
    return std::count(format.endings.begin(), format.endings.end(), ending) > 0;
}

bool reads(const FileFormat& format, bool flat) {
    return flat ? format.read_flat != nullptr : format.read != nullptr;
}

} // namespace

Body FileObject::body() const {
    return exact ? *exact : Body::from_mesh(welded(mesh));
}

const FileFormat* find_format(const std::string& id) {
    for (const FileFormat& format : file_formats())
        if (format.id == id) return &format;
    return nullptr;
}

const FileFormat* written_format(const std::filesystem::path& path) {
    for (const FileFormat& format : file_formats())
        if (format.write && has_ending(format, ending_of(path))) return &format;
    return nullptr;
}

Expected<const FileFormat*> format_of(const std::filesystem::path& name, std::string_view bytes, bool flat) {
    const std::string ending = ending_of(name);
    const FileFormat *by_ending = nullptr, *by_contents = nullptr;
    for (const FileFormat& format : file_formats()) {
        if (!reads(format, flat)) continue;
        bool looks = format.looks_like(bytes);
        if (has_ending(format, ending)) {
            if (looks) return &format;
            by_ending = &format;
        }
        if (looks && !by_contents) by_contents = &format;
    }
    if (by_contents) return by_contents;
    if (by_ending) return by_ending; // its reader says what is wrong with it
    if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Fetch it again.");
    return problem(ProblemCode::File,
                   ending.empty() ? "It is not seen what kind of file this is."
                                  : "Files ending in ." + ending + " are not read here.",
                   "Use " + read_titles(flat) + ".");
}

std::string read_titles(bool flat) {
    std::vector<std::string> titles;
    for (const FileFormat& format : file_formats())
        if (reads(format, flat)) titles.push_back(format.title);
    return in_words(titles);
}

std::string written_titles() {
    std::vector<std::string> titles;
    for (const FileFormat& format : file_formats())
        if (format.write) titles.push_back("." + format.endings.front());
    return in_words(titles);
}

std::vector<std::string> read_endings(bool flat) {
    std::vector<std::string> endings;
    for (const FileFormat& format : file_formats())
        if (reads(format, flat)) endings.insert(endings.end(), format.endings.begin(), format.endings.end());
    return endings;
}

Expected<ReadObjects> read_objects(const std::string& file_name, const std::string& bytes) {
    auto format = format_of(file_name, bytes, false);
    if (!format) return pass_on(format);
    auto objects = (*format)->read(bytes);
    if (!objects) return pass_on(objects);
    return ReadObjects{*format, std::move(*objects)};
}

Expected<ReadMesh> one_mesh(ReadObjects read) {
    ReadMesh result;
    result.format = read.format->id;
    result.objects = read.objects.size();
    for (const FileObject& object : read.objects)
        result.notes.insert(result.notes.end(), object.notes.begin(), object.notes.end());
    if (read.objects.size() == 1 && !read.objects[0].exact)
        result.mesh = std::move(read.objects[0].mesh);
    else
        for (const FileObject& object : read.objects) append(result.mesh, object.triangles());
    if (result.mesh.empty()) return problem(ProblemCode::File, "It holds no facets.", "Choose another file.");
    return result;
}

Expected<ReadMesh> read_mesh_file(const std::filesystem::path& path) {
    auto bytes = read_file(path);
    if (!bytes) return pass_on(bytes);
    auto read = read_objects(path.filename().string(), *bytes);
    if (!read) return pass_on(read);
    return one_mesh(std::move(*read));
}

Expected<TriMesh> read_triangles(const std::string& file_name, const std::string& bytes) {
    auto read = read_objects(file_name, bytes);
    if (!read) return pass_on(read);
    auto mesh = one_mesh(std::move(*read));
    if (!mesh) return pass_on(mesh);
    return std::move(mesh->mesh);
}

Expected<FlatPaths> read_flat(const std::string& file_name, const std::string& bytes) {
    if (bytes.empty()) return problem(ProblemCode::File, "The file is empty.", "Fetch it again.");
    auto format = format_of(file_name, bytes, true);
    if (!format) return pass_on(format);
    return (*format)->read_flat(bytes);
}

std::optional<Problem> write_objects(const std::filesystem::path& path, const std::vector<FileObject>& objects,
                                     const std::string& title, const FileExtras& extras) {
    const FileFormat* format = written_format(path);
    if (!format)
        return Problem{ProblemCode::File, "Files ending in \"" + path.extension().string() + "\" are not written here.",
                       "Use " + written_titles() + "."};
    if (objects.empty()) return Problem{ProblemCode::Missing, "There is nothing to write.", "Make a part first."};
    auto bytes = format->write(objects, title, extras);
    if (!bytes) return bytes.error();
    if (format->write_second && !extras.file_stem.empty()) {
        const auto second = path.parent_path() / (extras.file_stem + "." + format->second_ending);
        if (auto failed = write_file_safely(second, format->write_second(objects))) return failed;
    }
    return write_file_safely(path, *bytes);
}

std::optional<Problem> write_mesh_file(const std::filesystem::path& path, const TriMesh& mesh,
                                       const std::string& name) {
    if (mesh.empty()) return Problem{ProblemCode::Geometry, "There is nothing to write."};
    return write_objects(path, {{.name = name, .mesh = mesh}}, name);
}

/// Size within a thousandth; volume within 1e-5, seven digits of each coordinate of STL and 3MF, or the least slack.
static ReadBack judged(ReadBack back, const std::string& of, double least_slack_mm3) {
    const double slack = std::max(least_slack_mm3, 1e-5 * std::fabs(back.volume_meant_mm3));
    back.same = back.triangles == back.triangles_meant && (back.size - back.size_meant).cwiseAbs().maxCoeff() < 1e-3 &&
                std::fabs(back.volume_mm3 - back.volume_meant_mm3) < slack;
    back.says = std::to_string(back.triangles) + " " + of + ", " + format_number(back.size.x(), 2) + " x " +
                format_number(back.size.y(), 2) + " x " + format_number(back.size.z(), 2) + " mm, " +
                format_number(back.volume_mm3 / 1000, 2) + " cm³";
    if (!back.same)
        back.says += "; meant were " + std::to_string(back.triangles_meant) + " " + of + " and " +
                     format_number(back.volume_meant_mm3 / 1000, 2) + " cm³";
    return back;
}

ReadBack compare_bodies(const std::filesystem::path& file, const std::string& name, const Body& read,
                        const Body& meant) {
    ReadBack back;
    back.file = file;
    back.name = name;
    back.triangles = read.tessellation().faces.size();
    back.triangles_meant = meant.tessellation().faces.size();
    back.volume_mm3 = read.mass().volume_mm3;
    back.volume_meant_mm3 = meant.mass().volume_mm3;
    back.size = read.box().sizes();
    back.size_meant = meant.box().sizes();
    return judged(std::move(back), "faces", 1e-6);
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
    return judged(std::move(back), "facets", 1e-3);
}

} // namespace lp
