// Where the layers of a part lie.
#pragma once
#include "project/evaluate.h"

namespace lp {

/// Its bands worked out; a Problem when one cannot be, or they make no sense.
Expected<std::vector<HeightBand>> height_bands(const std::vector<TypedBand>& typed, const ParameterValues& values);
/// "10 to 14 by 0.12": from where to where, and the height of the layers.
Expected<TypedBand> band_typed(const std::string& text);
/// "layers of 0.12 mm from 10 mm to 14 mm".
std::string band_words(const TypedBand& band);
/// Of the printer card, with the part's own bands. Bands with a problem count as not there: edits refuse them.
LayerHeights layer_heights(const Project& project, const Part& part, const ParameterValues& values);
LayerHeights layer_heights(const Project& project, const Part& part);
LayerHeights layer_heights(const Evaluation& evaluation, PartId part);

} // namespace lp
