// Takes a fillet, hole or boss away by its faces; the neighbours close over it.
#include "base/tolerance.h"
#include "steps/edges/on_faces.h"

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
    kind.needs_exact = true;
    kind.offers = {{.when = Chosen::Faces, .place = 50}, {.when = Chosen::Face, .place = 40, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = chosen_faces(before, context);
        if (!found) return pass_on(found);
        const Body& body = before[found->body].body;
        KernelCall call;
        call.what = "remove";
        double volume = body.mass().volume_mm3;
        return on_faces(before, context, *found, call, "Removing faces", volume * 0.01,
                        std::max(volume, body.box().volume()) * 1.01);
    };
    return kind;
}

} // namespace lp
