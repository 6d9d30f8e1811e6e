// Round holes that lie when the part is printed: the top of each comes out flat and low.
#pragma once
#include "fit/cards.h"
#include "project/evaluate.h"

namespace lp {

struct LyingHole {
    size_t body = 0, face = 0;
    Vec3 axis = Vec3::UnitX(); ///< as posed
    Vec3 top = Vec3::Zero();   ///< on its roof, as posed
    double diameter_mm = 0;
    double flat_mm = 0; ///< width over which the top comes out flat: the chord one layer below the crown
    double low_mm = 0;  ///< how far below the crown that may be: the layer, and what the card says lying faces sag
};

/// Hollow round faces whose axis lies (within 30 degrees of level) and whose roof hangs beyond the card's limit, the
/// largest first; from 3 mm across: the roof of a smaller one is a line or two (common practice, no published source).
std::vector<LyingHole> lying_holes(const PartResult& made, const Transform& pose, const PrinterCard& card);
/// Axes of all hollow round faces of that size, in the design frame: what wants to stand upright.
std::vector<Vec3> bore_axes(const PartResult& made);
/// "The largest, ⌀ 10 mm along x, comes out flat over 2.8 mm at its top and up to 0.2 mm low." Empty without one.
std::string lying_hole_words(const std::vector<LyingHole>& holes);

} // namespace lp
