// Steps on faces of bodies of triangles: which facets they are, and what is asked of what comes out. Included only by
// steps/*.cpp.
#pragma once
#include "mesh/region.h"
#include "steps/edges/on_faces.h"

namespace lp {

/// Facets of the chosen faces, on one body of triangles.
struct MeshFaces {
    size_t body = 0;
    Facets facets;
};

Facets facets_of(const Body& body, const std::vector<size_t>& faces);
/// Of the field `faces`. Refused for an exact body, whose faces are not made of facets, and while a part is remade
/// larger for a gap.
Expected<MeshFaces> chosen_mesh_faces(const std::vector<StepBody>& before, const StepContext& context);
/// What closes the faces is named after this step.
Tag closing_tag(const StepContext& context);
/// Puts the mesh in the body's place. Refused when it encloses nothing or passes through itself where it did not
/// before.
Expected<StepResult> with_mesh(const std::vector<StepBody>& before, size_t body, TriMesh mesh,
                               const StepContext& context);
/// A Problem while a part is remade larger for a gap: what is of triangles is grown as a whole.
std::optional<Problem> refuse_growth(const StepContext& context);
/// Facets moved as a rigid thing: what stands beside them stretches; where it would fold over or the body pass through
/// itself, they are taken out, closed over and set in again.
Expected<StepResult> with_moved_facets(const std::vector<StepBody>& before, size_t body, const Facets& facets,
                                       const Transform& move, const StepContext& context);
/// Whether it passes through itself: asked of closed meshes only, and not of huge ones.
bool crosses_itself(const TriMesh& mesh, const Task& task);

} // namespace lp
