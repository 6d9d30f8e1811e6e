// A brim: a flat border round what lies on the bed, one layer high, so that tall and narrow things keep standing and
// corners do not lift.
#pragma once
#include "bed/slicing.h"
#include <optional>
#include <string>

namespace lp {

enum class BrimPlace {
    Outside, ///< round the outer outlines; holes stay free
    Inside,  ///< in the holes
    Both,
    Corners, ///< discs at the sharp corners alone
};
/// As files have it: "outside", "inside", "both", "corners".
const char* word_of(BrimPlace place);
std::optional<BrimPlace> brim_place_called(const std::string& word);

struct Brim {
    double width_mm = 0;
    BrimPlace place = BrimPlace::Outside;
    double gap_mm = 0; ///< from the part; 0: it touches
};

/// A body of its own. Empty where nothing lies on the bed, or nothing is where it is wanted. The mesh stands on z = 0.
TriMesh make_brim(const TriMesh& posed, const Brim& brim, double layer_mm, const Task& task = {});

/// Corners of the outer outlines of the first layer that turn by more than 40 degrees within a millimetre, between
/// sides of at least 3 mm: those that lift first.
std::vector<Vec2> sharp_corners(const TriMesh& posed, double layer_mm, const Task& task = {});

} // namespace lp
