// What posts do for a part, in figures.
#pragma once
#include "bed/posts.h"

namespace lp {

struct SupportFigures {
    size_t posts = 0;
    size_t touching = 0;             ///< end within the contact gap of what they carry
    size_t standing_on_part = 0;     ///< not on the bed
    double volume_mm3 = 0;           ///< of all posts
    double unsupported_area_mm2 = 0; ///< hangs beyond the limit, further from every tip than the posts' grid allows
    SupportFigures& operator+=(const SupportFigures& other);
};

/// Hanging area is counted on parts of a millimetre; one is carried when a tip lies below it within half the diagonal
/// of the grid and half the tip.
SupportFigures support_figures(const TriMesh& posed, const Supports& supports, const PostOptions& options);

} // namespace lp
