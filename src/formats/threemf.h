// 3MF through lib3mf (core specification, docs/tables.md 8). Units are written as millimetres and read as what they
// say.
#pragma once
#include "formats/formats.h"

namespace lp {

/// Where the settings of a print stand in a package, and what says so (docs/file-format.md).
inline constexpr const char* settings_part = "/Metadata/print-settings.json";
inline constexpr const char* settings_relationship = "http://loose-peg.example/2026/print-settings";

/// The bytes of a package. Objects without triangles are refused.
Expected<std::string> write_3mf(const std::vector<FileObject>& objects, const std::string& title,
                                const FileExtras& extras = {});

/// Every build item with its transforms applied. Refused: no package, damaged, more than 2 GB unpacked, deeper than 16
/// components, nothing to build.
Expected<std::vector<FileObject>> read_3mf(const std::string& bytes);

} // namespace lp
