// 3MF through lib3mf (core specification, docs/tables.md 8). Units are written as millimetres and read as what they
// say.
#pragma once
#include "formats/formats.h"

namespace lp {

/// The bytes of a package. Objects without triangles are refused.
Expected<std::string> write_3mf(const std::vector<FileObject>& objects, const std::string& title);

/// Every build item with its transforms applied. Refused: no package, damaged, more than 2 GB unpacked, deeper than 16
/// components, nothing to build.
Expected<std::vector<FileObject>> read_3mf(const std::string& bytes);

} // namespace lp
