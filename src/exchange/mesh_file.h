// Reading and writing meshes by file name; what was written is read back and compared.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"
#include <filesystem>

namespace lp {

struct ReadMesh {
    TriMesh mesh;
    std::string format; ///< "stl", "obj", "3mf"
    size_t objects = 1;
};

/// By the file's contents first, its ending second.
Expected<ReadMesh> read_mesh_file(const std::filesystem::path& path);
/// From bytes already in memory (imports of a project): STL and OBJ.
Expected<TriMesh> read_mesh_bytes(const std::string& file_name, const std::string& bytes);
/// .stl (binary), .obj or .3mf by the ending; whole or not at all.
std::optional<Problem> write_mesh_file(const std::filesystem::path& path, const TriMesh& mesh, const std::string& name);
/// "stl", "obj", "3mf", or empty for an ending not written here.
std::string output_format(const std::filesystem::path& path);

/// What stands in a file after writing, against what was meant.
struct ReadBack {
    std::filesystem::path file;
    std::string name; ///< of the object
    bool support = false;
    size_t triangles = 0, triangles_meant = 0;
    double volume_mm3 = 0, volume_meant_mm3 = 0;
    Vec3 size = Vec3::Zero(), size_meant = Vec3::Zero();
    bool same = false; ///< triangles equal, size within 0.001 mm, volume within 1e-5
    std::string says;
};
ReadBack compare_meshes(const std::filesystem::path& file, const std::string& name, const TriMesh& read,
                        const TriMesh& meant);

} // namespace lp
