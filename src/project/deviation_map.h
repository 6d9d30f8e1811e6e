// How far a part has come from what it was made of: from the mesh its file held, or, of a practice print, from the
// design.
#pragma once
#include "project/surface_map.h"
#include <optional>

namespace lp {

/// What a part is measured against.
struct Original {
    std::string words;                              ///< "what came from the file", "Hook as designed"
    std::vector<std::pair<Body, Transform>> bodies; ///< and where each lies in the part's design frame
    uint64_t key = 0;                               ///< fingerprint of what they come from
};

/// Of a part that begins with a file and has steps that shape it: the file's bodies as they were placed, scaled and
/// turned at once. Of a practice print: the design. Nothing for other parts.
std::optional<Original> original_of(const Evaluation& evaluation, PartId part);

/// The distance of every place of the part to the nearest of the original, in mm, without a sign; facets finer than a
/// millimetre and a half, or a hundredth of what is larger. A map a body; empty when stopped.
std::vector<SurfaceMap> deviation_maps(const PartResult& part, const Original& original, const Task& task = {});
/// In mm; 0 for a map of nothing.
double largest_value(const SurfaceMap& map);

/// What a practice print is called after the part it is of.
std::string practice_name(const std::string& part);

} // namespace lp
