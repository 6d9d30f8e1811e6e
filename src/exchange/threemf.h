// 3MF through lib3mf (core specification, reference/tables.md 8). Units are written as millimetres and read as what
// they say.
#pragma once
#include "base/problem.h"
#include "shape/tri_mesh.h"
#include <filesystem>

namespace lp {

struct ThreemfObject {
    std::string name;
    TriMesh mesh;               ///< where it stands on the bed, mm
    bool support = false;       ///< written as type "support"
    uint32_t colour = 0xd69b48; ///< display colour, 0xRRGGBB
};

/// Writes beside the target and renames; nothing is left on failure. Objects without triangles are refused.
std::optional<Problem> write_3mf(const std::filesystem::path& path, const std::vector<ThreemfObject>& objects,
                                 const std::string& title);

/// Every build item with its transforms applied. Refused: no package, damaged, more than 2 GB unpacked, deeper than 16
/// components, nothing to build.
Expected<std::vector<ThreemfObject>> read_3mf(const std::filesystem::path& path);

} // namespace lp
