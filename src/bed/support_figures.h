// What supports do for a part, in figures.
#pragma once
#include "bed/supports.h"

namespace lp {

struct SupportFigures {
    size_t supports = 0;
    size_t touching = 0;             ///< all their tips end within the contact gap of what they carry
    size_t standing_on_part = 0;     ///< not on the bed
    double volume_mm3 = 0;           ///< of all of them
    double unsupported_area_mm2 = 0; ///< hangs beyond the limit, further from every tip than the grid of posts, or the
                                     ///< reach of a tree's tip, allows
    SupportFigures& operator+=(const SupportFigures& other);
};

/// Hanging area is counted on parts of a millimetre; one is carried when a post's tip lies below it within half the
/// diagonal of the grid and half the tip. For trees it is what was counted when they were made.
SupportFigures support_figures(const TriMesh& posed, const Supports& supports, const SupportOptions& options);

} // namespace lp
