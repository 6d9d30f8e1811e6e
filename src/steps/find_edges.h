// Edges and faces that steps refer to, several at a time.
#pragma once
#include "steps/step_kind.h"

namespace lp {

struct FoundEdges {
    size_t body = 0;
    std::vector<size_t> edges; ///< of its tessellation, without repeats
};

/// The edges a field means, by semicolons: picked ones (reference_text), "all", "upright" (along z), "of FACE" (all
/// edges of a face, picked or in words: "of top of lid"), "made by STEP" (all edges of its own faces), "foot of STEP"
/// (where its own faces meet others').
/// All on one body, the first body where nothing says which. A lost edge is a Problem that says which.
Expected<FoundEdges> find_edges(const std::vector<StepBody>& before, const StepContext& context,
                                const FieldValue& value);
/// The same for one thing of a field.
Expected<FoundEdges> edges_of_item(const std::vector<StepBody>& before, const StepContext& context,
                                   const GeometryItem& item);

struct FoundFaces {
    size_t body = 0;
    std::vector<size_t> faces; ///< of its tessellation
};
/// Faces by semicolons, picked or in words; all on one body. None named: none found, on the first body.
Expected<FoundFaces> find_faces(const std::vector<StepBody>& before, const StepContext& context,
                                const std::vector<GeometryItem>& items);

} // namespace lp
