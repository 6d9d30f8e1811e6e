// Makes bodies larger or smaller, evenly or along an axis, about a point.
#include "base/tolerance.h"
#include "shape/copies.h"
#include "steps/pick_bodies.h"
#include "steps/step_bodies.h"
#include "steps/step_kind.h"

namespace lp {

StepKind scale_kind() {
    StepKind kind;
    kind.id = "scale";
    kind.title = "Scale";
    kind.purpose = "Makes bodies larger or smaller, evenly or along an axis, about a point.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"by", FieldKind::Number, "1", 1e-3, 1e3, {}, "1.02 is two hundredths larger"},
                   {"by_x", FieldKind::Number, "1", 1e-3, 1e3, {}, "along x, besides"},
                   {"by_y", FieldKind::Number, "1", 1e-3, 1e3, {}, "along y, besides"},
                   {"by_z", FieldKind::Number, "1", 1e-3, 1e3, {}, "along z, besides"},
                   {"about_x", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"},
                   {"about_y", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"},
                   {"about_z", FieldKind::Length, "0 mm", -far, far, {}, "the point that stays"}};
    kind.sentence = "Scale {what} by {by}[, in x by {by_x}][, in y by {by_y}][, in z by {by_z}]"
                    "[, about {about_x}, {about_y}, {about_z}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"resize", "size"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "scale");
        if (!chosen) return pass_on(chosen);
        Vec3 by = context.number("by") * Vec3(context.number("by_x"), context.number("by_y"), context.number("by_z"));
        if (context.growth_mm != 0 && !by.isOnes(1e-9))
            return problem(ProblemCode::Geometry, "A scaled body cannot carry a gap: the gap would scale with it.",
                           "Give it its size by its numbers instead.");
        Vec3 about(context.number("about_x"), context.number("about_y"), context.number("about_z"));
        Affine map = Affine::Identity();
        map.translate(about);
        map.scale(by);
        map.translate(-about);
        StepResult result{before, {}, {}};
        for (size_t i : *chosen) {
            auto body = mapped(before[i].body, map);
            if (!body) return pass_on(body);
            result.bodies[i].body = *body;
            auto solids = mapped_solids(before[i].solids, map);
            if (!solids) return pass_on(solids);
            result.bodies[i].solids = *solids;
            result.bodies[i].bends = mapped_bends(before[i].bends, map);
            if (!by.isOnes(1e-9) && !before[i].halos.empty()) {
                result.bodies[i].halos.clear();
                result.note = "Its halo is gone: the gap would have scaled with it. Give it one after this.";
            }
        }
        return result;
    };
    return kind;
}

} // namespace lp
