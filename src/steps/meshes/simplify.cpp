// Fewer facets for a body of triangles.
#include "mesh/simplify.h"
#include "base/quantity.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind simplify_kind() {
    StepKind kind;
    kind.id = "simplify";
    kind.title = "Simplify";
    kind.purpose = "Fewer triangles, none of the surface farther from what it was than a distance.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies of triangles"},
                   {"deviation", FieldKind::Length, "0.01 mm", 0.0005, 100, {}, "how far the surface may move"}};
    kind.sentence = "Simplify {what}, within {deviation}";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"decimate", "reduce", "fewer", "facets", "triangles", "lighter"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 200}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "simplify");
        if (!chosen) return pass_on(chosen);
        StepResult result{before, {}, {}};
        size_t was = 0, is = 0;
        for (size_t i : *chosen) {
            const Body& body = before[i].body;
            if (body.is_exact()) continue; // it has no facets of its own
            auto fewer = simplify_mesh(body.mesh(), {.deviation_mm = context.number("deviation")}, context.task);
            if (!fewer) return pass_on(fewer);
            was += body.mesh().triangles.size();
            is += fewer->mesh.triangles.size();
            const Tag tag = intern_tag({context.step_id, FaceRole::Side, 0, context.copy, 0});
            fewer->mesh.tags.assign(fewer->mesh.triangles.size(), tag);
            result.bodies[i].body = Body::from_mesh(std::move(fewer->mesh));
        }
        if (was == 0)
            return problem(ProblemCode::Geometry, "There is no body of triangles here to simplify.",
                           "Exact bodies have no triangles of their own.");
        result.note = std::to_string(was) + " triangles became " + std::to_string(is) + ".";
        return result;
    };
    return kind;
}

} // namespace lp
