// The colours of a map, and a mapped surface as an object of a file that holds a colour a corner.
#pragma once
#include "formats/formats.h"
#include "project/surface_map.h"

namespace lp {

/// 0xRRGGBB at a share of the scale, 0 to 1; five stops with lightness 25, 42, 59, 75 and 90 (CIE L*), from aubergine
/// over slate and moss to straw.
uint32_t map_colour_number(double share);

/// The surface where `place` puts it, coloured as the view colours it; `plain` where nothing was measured. Corners are
/// shared where place and colour agree.
FileObject coloured_object(const SurfaceMap& map, const Transform& place, uint32_t plain, const std::string& name);

} // namespace lp
