// What a slicer should know of the parts on a bed, as JSON that travels in the 3MF (docs/file-format.md).
#pragma once
#include "handoff/export_project.h"
#include <map>

namespace lp {

/// How often each item lies on the bed. The items live as long as this.
using CopiesOnBed = std::map<const ExportItem*, int>;

/// The object that holds where the item is printed solid.
std::string filled_name(const ExportItem& item);

std::string print_settings_json(const PrinterCard& printer, const CopiesOnBed& on_bed);

} // namespace lp
