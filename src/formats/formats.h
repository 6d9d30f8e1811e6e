// The one table of file formats, and reading and writing through it. A format is its own file and one line of the
// table; dialogs, check boxes, usage texts and --format come from here.
#pragma once
#include "base/files.h"
#include "outline/flat_paths.h"
#include "shape/body.h"

namespace lp {

/// One thing in a file, where it stands there, in mm.
struct FileObject {
    std::string name = {};
    TriMesh mesh = {};              ///< of triangle formats: facets as they stand in the file
    std::optional<Body> exact = {}; ///< of exact formats: then `mesh` is empty
    bool support = false;
    uint32_t colour = 0xd69b48;          ///< display colour, 0xRRGGBB
    std::vector<std::string> notes = {}; ///< what was dropped or guessed while it was read, each a sentence
    /// A copy of an object before it, which has the triangles; of formats that hold many triangles.
    std::optional<size_t> same_as = {};
    Transform place = Transform::Identity();   ///< where its triangles, or those of what it copies, stand
    std::string shape = {};                    ///< name of what its copies share; empty: its own
    bool helper = false;                       ///< tells of another object, not printed itself
    std::vector<uint32_t> vertex_colours = {}; ///< of the mesh's vertices; of formats that hold them; empty: `colour`
    std::string remark = {}; ///< what who prints it must know, a sentence a line; written where a format holds words

    const TriMesh& triangles() const { return exact ? exact->mesh() : mesh; }
    const std::string& shape_name() const { return shape.empty() ? name : shape; }
    /// Corners that lie on each other made one.
    Body body() const;
};

/// What a file tells besides its objects, where its format has room for it.
struct FileExtras {
    std::string settings_json = {}; ///< of the print
    std::string picture_png = {};
    std::string file_stem = {}; ///< name of the file without its ending: of formats that lie in two files
};

struct FileFormat {
    enum class Content { Triangles, Exact, Flat };
    const char* id;    ///< "3mf": of --format and of JSON
    const char* title; ///< "3MF"
    std::vector<std::string> endings;
    Content content = Content::Triangles;
    bool holds_many = false;       ///< one file for all parts, with names and colours; else a file a part
    bool tells_apart = false;      ///< what is read from it may be several things with names
    bool shares_corners = false;   ///< facets share their corners: what is welded stays so
    bool single_precision = false; ///< coordinates keep seven digits
    bool chosen_at_first = false;  ///< of the check boxes of an export
    const char* good_for = "";     ///< what a person wants it for
    bool (*looks_like)(std::string_view bytes) = nullptr;
    Expected<std::vector<FileObject>> (*read)(const std::string& bytes) = nullptr; ///< null: not read as bodies
    Expected<FlatPaths> (*read_flat)(const std::string& bytes) = nullptr;          ///< of flat formats
    /// The bytes of a file; null for formats that are only read.
    Expected<std::string> (*write)(const std::vector<FileObject>& objects, const std::string& title,
                                   const FileExtras& extras) = nullptr;
    /// Of formats that lie in two files: the ending of the second, and its bytes.
    const char* second_ending = "";
    std::string (*write_second)(const std::vector<FileObject>& objects) = nullptr;
};

const std::vector<FileFormat>& file_formats();
const FileFormat* find_format(const std::string& id);
/// The format of a file's ending that can be written; null for other endings.
const FileFormat* written_format(const std::filesystem::path& path);
/// The format of a file, by its contents first, its ending second; a Problem that lists the endings there are.
Expected<const FileFormat*> format_of(const std::filesystem::path& name, std::string_view bytes, bool flat);
/// "STL, OBJ or 3MF": the formats that are read, or written, for sentences.
std::string read_titles(bool flat);
std::string written_titles();
/// Their endings: {"stl", "obj", "3mf"}.
std::vector<std::string> read_endings(bool flat);

struct ReadObjects {
    const FileFormat* format = nullptr;
    std::vector<FileObject> objects;
};
/// Everything in a file; read and parsed once.
Expected<ReadObjects> read_objects(const std::string& file_name, const std::string& bytes);

/// A file as one mesh.
struct ReadMesh {
    TriMesh mesh;
    std::string format; ///< id
    size_t objects = 1;
    std::vector<std::string> notes; ///< of all objects
};
/// A Problem where there are no facets.
Expected<ReadMesh> one_mesh(ReadObjects read);
Expected<ReadMesh> read_mesh_file(const std::filesystem::path& path);
/// The triangles and the drawing in bytes already in memory: imports of a project.
Expected<TriMesh> read_triangles(const std::string& file_name, const std::string& bytes);
Expected<FlatPaths> read_flat(const std::string& file_name, const std::string& bytes);

/// By the ending; whole or not at all.
std::optional<Problem> write_objects(const std::filesystem::path& path, const std::vector<FileObject>& objects,
                                     const std::string& title, const FileExtras& extras = {});
std::optional<Problem> write_mesh_file(const std::filesystem::path& path, const TriMesh& mesh, const std::string& name);

/// What stands in a file after writing, against what was meant.
struct ReadBack {
    std::filesystem::path file;
    std::string name; ///< of the object
    bool support = false;
    size_t triangles = 0, triangles_meant = 0; ///< of exact formats: faces
    double volume_mm3 = 0, volume_meant_mm3 = 0;
    Vec3 size = Vec3::Zero(), size_meant = Vec3::Zero();
    bool same = false; ///< triangles equal, size within 0.001 mm, volume within 1e-5
    std::string says;
};
/// Faces, size and volume.
ReadBack compare_bodies(const std::filesystem::path& file, const std::string& name, const Body& read,
                        const Body& meant);
ReadBack compare_meshes(const std::filesystem::path& file, const std::string& name, const TriMesh& read,
                        const TriMesh& meant);

} // namespace lp
