// Exact bodies in STEP files (ISO 10303-21) and BREP files, by the kernel's own process.
#pragma once
#include "shape/body.h"
#include <string>

namespace lp {

struct StepFileBody {
    std::string name; ///< UTF-8; empty where the file has none
    Body body;
    std::optional<uint32_t> colour = {}; ///< 0xRRGGBB
};

/// Every solid where it stands in the file, in mm. Refused: files over 200 MB or of more than 1,500,000 entities, what
/// is cut off, damaged or without a solid, and what takes longer than 6 s and a second for
/// every 0.3 MB, a minute at most.
Expected<std::vector<StepFileBody>> read_step_file(const std::string& bytes, const Task& task = {});
/// The same of a BREP file, the kernel's own text; no names, no colours.
Expected<std::vector<StepFileBody>> read_brep_file(const std::string& bytes, const Task& task = {});
/// AP 214, each body a product with its name and colour. All bodies exact.
Expected<std::string> write_step_file(const std::vector<StepFileBody>& bodies, const std::string& title,
                                      const Task& task = {});

} // namespace lp
