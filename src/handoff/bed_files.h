// Printed parts where they lie on their beds, a file a bed, with what a slicer should know of each.
#pragma once
#include "handoff/export_project.h"

namespace lp {

/// "#d69b48" as 0xRRGGBB; the colour of new parts where it is none.
uint32_t colour_number(const std::string& colour);

/// Writes, reads back and compares: `path`, and beside it "-bed-2" and so on. Copies share their shapes where the
/// format knows how. `in_place`: one file, each part once, as it stands in the design.
Expected<std::vector<ReadBack>> write_beds(const Evaluation& evaluation, const std::vector<ExportItem>& items,
                                           const std::filesystem::path& path, bool in_place);

} // namespace lp
