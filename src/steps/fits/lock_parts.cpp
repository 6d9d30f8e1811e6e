#include "steps/fits/lock_parts.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "steps/pick_bodies.h"

namespace lp {

std::vector<StepField> lock_fields(std::vector<StepField> own) {
    const double far = tolerance::largest_mm;
    std::vector<StepField> all{
        {"what", FieldKind::Bodies, "all", 0, 0, {}, "the body it goes to, by step number or name"},
        StepField{"radius", FieldKind::Length, "20 mm", 1, 1e4, {}, "of the wall between the parts"}.as(
            FieldRole::Radius),
        {"depth", FieldKind::Length, "2 mm", 0.3, 1e3, {}, "how far the lugs stand out of the wall"},
        {"width", FieldKind::Length, "4 mm", 0.5, 1e3, {}, "of the lugs"},
        {"count", FieldKind::Count, "3", 1, 60, {}, "lugs round the wall"},
        {"side", FieldKind::Choice, "outward", 0, 0, {"outward", "inward"}, "which way the lugs stand"},
        {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "of the first lug, from x"},
        {"at_z", FieldKind::Length, "0 mm", -far, far, {}, "height of the lugs' middle"},
        {"at_x", FieldKind::Length, "0 mm", -far, far, {}, "of the axis"},
        {"at_y", FieldKind::Length, "0 mm", -far, far, {}, "of the axis"}};
    for (StepField& field : own) all.push_back(std::move(field));
    return all;
}

Expected<std::vector<Body>> round_the_wall(const std::vector<Body>& pieces, const StepContext& context) {
    std::vector<Body> all;
    int count = int(context.number("count"));
    for (int k = 0; k < count; ++k) {
        Affine place = Affine::Identity();
        place.translate(Vec3(context.number("at_x"), context.number("at_y"), 0));
        place.rotate(Eigen::AngleAxisd(2 * std::numbers::pi * k / count, Vec3::UnitZ()));
        for (const Body& piece : pieces) {
            auto copy = mapped(piece, place);
            if (!copy) return pass_on(copy);
            all.push_back(k ? renamed_copy(*copy, context.step_id, uint64_t(k)) : *copy);
        }
    }
    return all;
}

Expected<StepResult> apply_lock(const std::vector<StepBody>& before, const StepContext& context, Operation operation,
                                const std::vector<Body>& tools) {
    auto chosen = pick_bodies(before, context.word("what"), "lock");
    if (!chosen) return pass_on(chosen);
    StepResult result{before, {}, {}};
    bool changed = false;
    for (size_t i : *chosen) {
        int pieces = before[i].body.pieces();
        auto made = combine(operation, before[i].body, tools, context.task);
        if (!made) return pass_on(made);
        changed = changed || std::fabs(made->body.mass().volume_mm3 - before[i].body.mass().volume_mm3) > 1e-3;
        result.bodies[i].body = made->body;
        if (!made->note.empty()) result.note = made->note;
        tell_pieces(result, i, pieces);
    }
    if (!changed) result.note = "It changes nothing: the lock does not reach the body.";
    return result;
}

} // namespace lp
