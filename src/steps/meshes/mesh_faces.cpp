#include "steps/meshes/mesh_faces.h"
#include "mesh/soundness.h"

namespace lp {

Facets facets_of(const Body& body, const std::vector<size_t>& faces) {
    const Tessellation& t = body.tessellation();
    std::vector<char> wanted(t.faces.size(), 0);
    for (size_t f : faces) wanted[f] = 1;
    Facets facets;
    for (uint32_t i = 0; i < t.face_of.size(); ++i)
        if (wanted[t.face_of[i]]) facets.push_back(i);
    return facets;
}

std::optional<Problem> refuse_growth(const StepContext& context) {
    if (context.growth_mm == 0) return std::nullopt;
    return Problem{ProblemCode::Geometry, "A body of triangles cannot be remade larger by its numbers.",
                   "Its halo is made of facets instead."};
}

Expected<MeshFaces> chosen_mesh_faces(const std::vector<StepBody>& before, const StepContext& context) {
    if (auto wrong = refuse_growth(context)) return pass_on(*wrong);
    auto found = chosen_faces(before, context);
    if (!found) return pass_on(found);
    const Body& body = before[found->body].body;
    if (body.is_exact())
        return problem(ProblemCode::Geometry, "These faces are exact: this step works on bodies of triangles.",
                       "Push the face, or change the numbers of the step that made it.");
    return MeshFaces{found->body, facets_of(body, found->faces)};
}

Tag closing_tag(const StepContext& context) {
    return intern_tag({context.step_id, FaceRole::Derived, 0, context.copy, 0});
}

bool crosses_itself(const TriMesh& mesh, const Task& task) {
    constexpr size_t most_facets = 300'000; // a second of work
    return mesh.triangles.size() <= most_facets && !intersecting_pairs(welded(mesh), task).empty();
}

Expected<StepResult> with_mesh(const std::vector<StepBody>& before, size_t body, TriMesh mesh,
                               const StepContext& context) {
    const Body& was = before[body].body;
    mesh = welded(mesh);
    if (was.mass().volume_mm3 > 0 && mass_properties(mesh).volume_mm3 <= 0)
        return problem(ProblemCode::Geometry, "The body would be turned inside out.", "Move the faces less far.");
    StepResult result{before, {}, {}};
    if (crosses_itself(mesh, context.task) && !crosses_itself(was.mesh(), context.task))
        return problem(ProblemCode::Geometry, "The body would pass through itself.",
                       "Move the faces less far, or choose what stands beside them as well.");
    if (context.cancelled()) return cancelled();
    result.bodies[body].body = Body::from_mesh(std::move(mesh));
    tell_pieces(result, body, was.pieces());
    return result;
}

Expected<StepResult> with_moved_facets(const std::vector<StepBody>& before, size_t body, const Facets& facets,
                                       const Transform& move, const StepContext& context) {
    const TriMesh& mesh = before[body].body.mesh();
    auto map = [&](const Vec3& p) -> Vec3 { return move * p; };
    auto moved = moved_region(mesh, facets, moved_by(map), 0, context.task);
    auto result = moved ? with_mesh(before, body, std::move(*moved), context) : Expected<StepResult>(pass_on(moved));
    if (result || result.error().code == ProblemCode::Cancelled) return result;
    auto again = set_in_again(mesh, facets, map, closing_tag(context), context.task);
    if (!again) return result;
    auto set = with_mesh(before, body, std::move(*again), context);
    return set ? set : result;
}

} // namespace lp
