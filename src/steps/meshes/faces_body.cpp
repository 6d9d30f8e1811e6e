// A patch of a body as a body of its own: the neck of a bought bottle, a plug for a hole.
#include "steps/meshes/mesh_faces.h"

namespace lp {

StepKind faces_body_kind() {
    StepKind kind;
    kind.id = "faces_body";
    kind.title = "Take faces as a body";
    kind.purpose = "Makes a body of chosen faces, closed flat where they end: a neck, a peg, what fills a hole.";
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "all faces of what is to be a body"}.filled_by(
            Filler::Faces),
        {"rest", FieldKind::Choice, "stays", 0, 0, {"stays", "goes"}, "what becomes of the body they are on"}};
    kind.sentence = "Take {faces} as a body, the rest {rest}";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"patch", "extract", "copy", "neck", "plug", "region"};
    kind.offers = {{.when = Chosen::Face, .place = 60, .on_mesh = true},
                   {.when = Chosen::Faces, .place = 60, .on_mesh = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (auto wrong = refuse_growth(context)) return pass_on(*wrong);
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        const StepBody& from = before[found->body];
        auto patch =
            closed_patch(from.body.mesh(), facets_of(from.body, found->faces), closing_tag(context), context.task);
        if (!patch) return pass_on(patch);
        StepResult result{before, {}, {}};
        if (from.body.is_exact()) result.note = "The faces are taken as triangles.";
        if (crosses_itself(patch->mesh, context.task))
            result.note = "Closed flat, these faces pass through themselves: choose fewer or more of them.";
        if (patch->hollow)
            result.note =
                "They were a hole's: the body is what fills it." + (result.note.empty() ? "" : " " + result.note);
        StepBody taken{context.step_id, context.name, Body::from_mesh(std::move(patch->mesh)), {}};
        if (context.word("rest") == "goes")
            result.bodies[found->body] = taken;
        else
            result.bodies.push_back(taken);
        return result;
    };
    return kind;
}

} // namespace lp
