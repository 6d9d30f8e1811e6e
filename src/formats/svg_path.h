// The path grammar of SVG ("d" attributes).
#pragma once
#include "outline/curve.h"

namespace lp {

struct SvgSubpath {
    std::vector<Curve> curves;
    bool closed = false; ///< by a Z
};

struct SvgPath {
    std::vector<SvgSubpath> subpaths;
    bool complete =
        true; ///< false: the data are wrong at `stopped_at`; what comes before is kept, as the recommendation says
    size_t stopped_at = 0; ///< characters into the text
};

/// Source: SVG 1.1 (second edition), chapter 8 and appendix F.6 for arcs; written from memory.
SvgPath parse_svg_path(const std::string& data);

} // namespace lp
