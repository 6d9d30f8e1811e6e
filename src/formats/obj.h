// OBJ: vertices and polygon faces; everything else in such a file is skipped. Millimetres are meant.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"

namespace lp {

/// Polygons become fans. Refused with the line: broken numbers, corners that are not there.
Expected<TriMesh> read_obj(const std::string& bytes);
struct NamedMesh {
    std::string name;
    const TriMesh* mesh = nullptr;
};
std::string write_obj(const std::vector<NamedMesh>& meshes);

} // namespace lp
