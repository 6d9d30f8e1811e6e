// Facets laid anew, of even size.
#include "mesh/remesh.h"
#include "base/quantity.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind remesh_kind() {
    StepKind kind;
    kind.id = "remesh";
    kind.title = "Even facets";
    kind.purpose = "Lays the triangles of a mesh anew, all about as long, before it is bent or smoothed.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies of triangles"},
                   {"edge", FieldKind::Length, "1 mm", 0.01, 1000, {}, "how long their edges are"},
                   {"edges", FieldKind::Angle, "30 deg", 1, 180, {}, "edges that bend more stay"}};
    kind.sentence = "Lay the facets of {what} anew, edges {edge} long[, keeping those above {edges}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"remesh", "isotropic", "triangles", "uniform", "regular", "subdivide"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 230}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "lay anew");
        if (!chosen) return pass_on(chosen);
        StepResult result{before, {}, {}};
        size_t was = 0, is = 0;
        double largest = 0;
        for (size_t i : *chosen) {
            const Body& body = before[i].body;
            if (body.is_exact()) continue;
            auto even = remesh(body.mesh(), {context.number("edge"), context.number("edges")}, context.task);
            if (!even) return pass_on(even);
            was += body.mesh().triangles.size();
            is += even->mesh.triangles.size();
            largest = std::max(largest, even->largest_deviation_mm);
            const Tag tag = intern_tag({context.step_id, FaceRole::Side, 0, context.copy, 0});
            even->mesh.tags.assign(even->mesh.triangles.size(), tag);
            result.bodies[i].body = Body::from_mesh(std::move(even->mesh));
        }
        if (was == 0)
            return problem(ProblemCode::Geometry, "There is no body of triangles here to lay anew.",
                           "Exact bodies have no triangles of their own.");
        result.note = std::to_string(was) + " triangles became " + std::to_string(is) + ", within " +
                      format_quantity(largest, QuantityKind::Length, 3) + " of the surface.";
        return result;
    };
    return kind;
}

} // namespace lp
