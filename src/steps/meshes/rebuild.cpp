// A watertight skin over a mesh that nothing else mends.
#include "mesh/rebuild.h"
#include "base/quantity.h"
#include "mesh/mend.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind rebuild_kind() {
    StepKind kind;
    kind.id = "rebuild";
    kind.title = "Rebuild";
    kind.purpose = "A watertight skin over a mesh that is too broken to mend: closed, with nothing left inside.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies of triangles"},
                   {"within",
                    FieldKind::Length,
                    "0 mm",
                    0,
                    1000,
                    {},
                    "holes twice this wide are bridged, slots as narrow filled; 0: a hundredth of its diagonal"}};
    kind.sentence = "Rebuild {what} as a closed skin[, bridging holes within {within}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"watertight", "wrap", "shrink wrap", "remesh", "repair", "scan", "close"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 210}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "rebuild");
        if (!chosen) return pass_on(chosen);
        StepResult result{before, {}, {}};
        size_t many = 0;
        for (size_t i : *chosen) {
            const Body& body = before[i].body;
            if (body.is_exact()) continue; // it is closed
            // Holes that can be filled are: the skin bridges what is left.
            auto mended = mend(body.mesh(), {}, context.task);
            if (context.task.stopped()) return cancelled();
            auto rebuilt = rebuild_mesh(mended ? mended->mesh : body.mesh(), {context.number("within")}, context.task);
            if (!rebuilt) return pass_on(rebuilt);
            const Tag tag = intern_tag({context.step_id, FaceRole::Side, 0, context.copy, 0});
            rebuilt->mesh.tags.assign(rebuilt->mesh.triangles.size(), tag);
            ++many;
            result.note += std::string(result.note.empty() ? "" : " ") +
                           "Closed: " + format_number(mass_properties(rebuilt->mesh).volume_mm3 / 1000, 2) + " cm³, " +
                           std::to_string(rebuilt->mesh.triangles.size()) + " facets, within " +
                           format_quantity(rebuilt->largest_mm, QuantityKind::Length, 2) + " of what was there.";
            if (context.number("within") > 0 && rebuilt->within_mm > context.number("within"))
                result.note += " Its facets enclosed nothing until holes within " +
                               format_quantity(rebuilt->within_mm, QuantityKind::Length, 2) + " were bridged.";
            result.bodies[i].body = Body::from_mesh(std::move(rebuilt->mesh));
        }
        if (many == 0)
            return problem(ProblemCode::Geometry, "There is no body of triangles here to rebuild.",
                           "Exact bodies are closed already.");
        return result;
    };
    return kind;
}

} // namespace lp
