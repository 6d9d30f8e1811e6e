// What to measure on a printed part with calipers: its sizes as it was drawn, and as this printer should make them.
#pragma once
#include "project/analysis.h"

namespace lp {

struct SizeToMeasure {
    std::string what; ///< "width, left to right", "hole, upright", "peg 2"
    double drawn_mm = 0;
    double expected_mm = 0; ///< with what the printer card says of outside faces and of holes of this diameter
    bool round = false;     ///< a diameter
    bool hole = false;
    bool by_layers = false;    ///< the height: layers are as high as they are, whatever the card says
    std::vector<Vec3> at = {}; ///< of round ones: a place on each axis, as it lies
};

/// Its three sizes as it lies on the bed, then round holes and pegs that stand upright, the largest first, each
/// diameter once; at most `most`. Of lying ones a caliper tells little. Of bodies of triangles only the sizes.
std::vector<SizeToMeasure> sizes_to_measure(const PartResult& made, const PartAnalysis& known, const PrinterCard& card,
                                            size_t most = 12);

} // namespace lp
