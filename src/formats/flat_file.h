// Flat drawings from files: SVG and DXF, and traced pictures.
#pragma once
#include "outline/flat_paths.h"

namespace lp {

/// Reads an SVG (units, view box, transforms, nested drawings, uses, style rules for fill) as the SVG 1.1
/// recommendation says. Open subpaths are reported, not closed. Refused: what is no XML or no SVG, more than 64 MB,
/// uses nested deeper than 32 levels, more than two million path pieces. What cannot be drawn (text, images) is named
/// in the findings.
Expected<FlatPaths> read_svg(const std::string& bytes);

/// Reads an ASCII DXF: lines, arcs, circles, ellipses, polylines with bulges, splines, points left out, blocks with
/// their inserts. Units by $INSUNITS. Refused: binary, cut-off or huge files, blocks that hold themselves.
Expected<FlatPaths> read_dxf(const std::string& bytes);

/// Reads a grey picture (PGM) and traces its dark shapes. Refused: other kinds, cut-off ones, more than 24 million
/// pixels, ones in which nothing stands out.
Expected<FlatPaths> read_picture(const std::string& bytes);

} // namespace lp
