// Join, cut and keep-common of bodies, exact with exact, on triangles otherwise.
#pragma once
#include "base/task.h"
#include "shape/exact_boolean.h"

namespace lp {

struct Combined {
    Body body;
    std::string note; ///< empty, or what a person should know: "the cut misses", "done on triangles because ..."
};

/// All operands in one go; the order of `others` does not change the result. Exact operands stay exact; when the
/// kernel fails or its result cannot be right, the bodies are combined on triangles, and the note says so.
Expected<Combined> combine(Operation operation, const Body& first, const std::vector<Body>& others,
                           const Task& task = {});

/// On closed triangle meshes that do not pass through themselves; tags are carried from each facet's source.
/// An exact arrangement of all operands; where its result cannot be right, corefinement (CGAL) with exact points. Fails
/// for open operands, for an empty result and on request.
Expected<TriMesh> combine_meshes(Operation operation, const std::vector<TriMesh>& operands, const Task& task = {});

/// A closed mesh that passes through itself, has shells in each other or against each other, as one surface: material is
/// where it goes round at least once. Closed and even, or a Problem.
Expected<TriMesh> united_with_itself(const TriMesh& mesh, const Task& task = {});

/// What two bodies both fill.
struct CommonPart {
    double volume_mm3 = 0;  ///< 0 when they stay apart
    Vec3 at = Vec3::Zero(); ///< a place in the largest piece of it
};
Expected<CommonPart> common_part(const TriMesh& a, const TriMesh& b);

} // namespace lp
