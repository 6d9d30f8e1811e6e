// Pictures of parts as PNG files.
#pragma once
#include "handoff/part_picture.h"
#include <string>

namespace lp {

/// The bytes of a file; empty where there is no picture.
std::string png_of(const PartPicture& picture);

} // namespace lp
