#include "base/tolerance.h"
#include "mesh/mend.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind mend_kind() {
    StepKind kind;
    kind.id = "mend";
    kind.title = "Mend";
    kind.purpose = "Welds, turns and closes a mesh that came damaged.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"tolerance", FieldKind::Length, "0.01 mm", 0, 10, {}, "open edges nearer than this are welded"}};
    kind.sentence = "Mend {what}, welding within {tolerance}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "mend");
        if (!chosen) return tl::make_unexpected(chosen.error());
        StepResult result{before, {}};
        for (size_t i : *chosen) {
            if (before[i].body.is_exact()) continue;
            auto mended = mend(before[i].body.mesh(), {context.number("tolerance")}, context.task);
            if (!mended) return tl::make_unexpected(mended.error());
            for (const Cure& cure : mended->cures) result.note += (result.note.empty() ? "" : ", ") + cure.says;
            if (mended->holes_left) result.note += ", " + std::to_string(mended->holes_left) + " holes could not be filled";
            result.bodies[i].body = Body::from_mesh(std::move(mended->mesh));
        }
        if (result.note.empty()) result.note = "nothing to mend";
        return result;
    };
    return kind;
}

} // namespace lp
