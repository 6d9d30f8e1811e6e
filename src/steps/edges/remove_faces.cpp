// Takes a fillet, hole or boss away by its faces; the neighbours close over it.
#include "base/tolerance.h"
#include "steps/edges/on_faces.h"
#include "steps/meshes/mesh_faces.h"

namespace lp {

StepKind remove_faces_kind() {
    StepKind kind;
    kind.id = "remove_faces";
    kind.title = "Remove faces";
    kind.purpose = "Takes a fillet, hole or boss away by its faces; the neighbours close over it.";
    kind.fields = {
        StepField{"faces", FieldKind::Faces, "", 0, 0, {}, "all faces of what is to go"}.filled_by(Filler::Faces)};
    kind.sentence = "Remove {faces} and close over";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"delete", "face", "heal"};
    kind.offers = {{.when = Chosen::Faces, .place = 50},
                   {.when = Chosen::Face, .place = 40, .folded = true},
                   {.when = Chosen::Face, .place = 50, .on_mesh = true},
                   {.when = Chosen::Faces, .place = 50, .on_mesh = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        const Body& body = before[found->body].body;
        if (!body.is_exact()) {
            auto chosen = chosen_mesh_faces(before, context);
            if (!chosen) return pass_on(chosen);
            auto rest = without_region(body.mesh(), chosen->facets, closing_tag(context), context.task);
            if (!rest) return pass_on(rest);
            return with_mesh(before, chosen->body, std::move(*rest), context);
        }
        KernelCall call;
        call.what = "remove";
        double volume = body.mass().volume_mm3;
        return on_faces(before, context, *found, call, "Removing faces", volume * 0.01,
                        std::max(volume, body.box().volume()) * 1.01);
    };
    return kind;
}

} // namespace lp
