// A part as JSON (docs/file-format.md).
#pragma once
#include "project/json_fields.h"

namespace lp {

nlohmann::json part_json(const Part& part);
/// Throws json_fields::Refused with what is wrong, beginning with `where`.
Part part_of(const nlohmann::json& from, const std::string& where);

} // namespace lp
