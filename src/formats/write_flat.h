// Flat outlines as files for other programs and machines: DXF and SVG, in millimetres.
#pragma once
#include "base/problem.h"
#include "outline/curve.h"
#include <filesystem>

namespace lp {

/// Closed loops of lines and arcs; other curves become lines within 0.01 mm. DXF: release 12, ASCII, y upwards, units
/// told as millimetres. SVG: one path, filled by the even-odd rule, in its true size.
std::string dxf_of(const std::vector<std::vector<Curve>>& loops);
std::string svg_of(const std::vector<std::vector<Curve>>& loops);

/// By the ending, .dxf or .svg; whole or not at all. A Problem for other endings and without loops.
std::optional<Problem> write_flat(const std::filesystem::path& path, const std::vector<std::vector<Curve>>& loops);

} // namespace lp
