// A picked face or edge found again among several bodies: halves of what was split carry the names of the whole.
#pragma once
#include "shape/face_reference.h"

namespace lp {

struct FoundAmong {
    size_t body = 0, index = 0; ///< of the face or edge on it
};
/// Of the bodies that have it the one where it meets what the picked one met, else the one where it is nearest to the
/// place that was picked, else the last. Refused as by the first body where none has it.
Expected<FoundAmong> resolve_among(const std::vector<const Body*>& bodies, const FaceReference& reference,
                                   bool any_in_plane = true);
Expected<FoundAmong> resolve_among(const std::vector<const Body*>& bodies, const EdgeReference& reference);

} // namespace lp
