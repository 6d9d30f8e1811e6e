// The document as JSON (docs/file-format.md). Unknown fields are kept.
#pragma once
#include "project/project.h"

namespace lp {

inline constexpr int project_version = 1;

nlohmann::json project_to_json(const Project& project);
/// Missing ids are given, parameters may be a list or a map, field values strings or numbers. Imports are not read
/// here: only their names are known afterwards (null contents). Refused with what is wrong and where.
Expected<Project> project_from_json(const nlohmann::json& json);
/// As above from text; a cut-off or oversized text is refused with the place.
Expected<Project> project_from_text(const std::string& text);

} // namespace lp
