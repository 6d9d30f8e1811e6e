// OBJ: vertices and polygon faces of objects; texture places, normals and materials are skipped. Millimetres are meant.
#pragma once
#include "formats/formats.h"

namespace lp {

/// Objects of the file, or its groups where it has none, with their names. Polygons are cut up as they are outlined,
/// hollow corners and all. Refused with the line: broken numbers, corners that are not there.
Expected<std::vector<FileObject>> read_obj_objects(const std::string& bytes);
/// All of it as one mesh.
Expected<TriMesh> read_obj(const std::string& bytes);
struct NamedMesh {
    std::string name;
    const TriMesh* mesh = nullptr;
    std::string material = {}; ///< name of it in the material library; empty: none
};
/// `materials`: file name of the material library; empty: none.
std::string write_obj(const std::vector<NamedMesh>& meshes, const std::string& materials = {});

} // namespace lp
