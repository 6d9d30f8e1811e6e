// Keeps of every body what lies in a box: a test piece of one region.
#include "base/tolerance.h"
#include "shape/exact_solids.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {

StepKind crop_kind() {
    StepKind kind;
    kind.id = "crop";
    kind.title = "Crop";
    kind.purpose = "Keeps of every body what lies in a box: a test piece of one region.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"size_x", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"size_y", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"size_z", FieldKind::Length, "30 mm", 0.5, far, {}, "of the box"},
                   {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "its middle"},
                   {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "its middle"},
                   {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "its middle"}};
    kind.sentence = "Keep of {what} what lies in {size_x} by {size_y} by {size_z} round {at_x}, {at_y}, {at_z}";
    kind.group = StepGroup::Splitting;
    kind.version = 2;
    kind.synonyms = {"trim", "box", "test", "piece"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "crop");
        if (!chosen) return pass_on(chosen);
        Vec3 size(context.number("size_x"), context.number("size_y"), context.number("size_z"));
        Transform at = Transform::Identity();
        size.array() += 2 * context.growth_mm; // where it cuts is an outside face too
        at.translate(Vec3(context.number("at_x"), context.number("at_y"), context.number("at_z")) - size / 2);
        auto box = make_block(size, at, context.source());
        if (!box) return pass_on(box);
        StepResult result{{}, {}, {}};
        for (size_t i = 0; i < before.size(); ++i) {
            if (std::find(chosen->begin(), chosen->end(), i) == chosen->end()) {
                result.bodies.push_back(before[i]);
                continue;
            }
            if (!before[i].body.box().intersects(box->box())) continue;
            auto kept = combine(Operation::Common, before[i].body, {*box}, context.task);
            if (!kept) {
                if (kept.error().code == ProblemCode::NothingLeft) continue;
                return pass_on(kept);
            }
            StepBody body = before[i];
            body.body = kept->body;
            result.bodies.push_back(std::move(body));
        }
        if (result.bodies.empty())
            return problem(ProblemCode::Geometry, "The box holds nothing of these bodies.",
                           "Move it, or make it larger.");
        return result;
    };
    return kind;
}

} // namespace lp
