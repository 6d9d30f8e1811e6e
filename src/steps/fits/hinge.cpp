// A hinge that comes off the bed joined. It stands as it is printed, and nothing in it hangs beyond the limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

Expected<StepResult> make_hinge(const std::vector<StepBody>& before, const StepContext& context) {
    auto row = knuckle_row(context, context.number("barrel"));
    if (!row) return pass_on(row);
    const double g = row->gap_mm, r = row->radius_mm, width = context.number("leaf"), len = context.number("length"),
                 t = context.number("thickness");
    const int count = int(context.number("knuckles"));
    const double pitch = len / count;
    if (pitch < 2 * g + 2 * row->bump_height_mm() + 2 * context.line_mm)
        return problem(ProblemCode::Range, "The knuckles are only " + in_mm(pitch) + " long.",
                       "Use fewer, or a longer hinge.");
    if (width <= r + g + context.line_mm)
        return problem(ProblemCode::Range, "The leaves do not reach beyond the barrel.", "Make them wider.");
    // Even knuckles carry the bumps and belong to the right leaf; odd ones are cut by their halo and belong to the
    // left.
    std::vector<Body> right, left, halo, clear;
    for (int k = 0; k < count; ++k) {
        double from = k * pitch, to = (k + 1) * pitch;
        uint64_t salt = uint64_t(10 * k + 10);
        if (k % 2 == 0) {
            bool first = k > 0, last = k + 1 < count;
            auto made = knuckle(*row, from, to, first, last, 0, context, salt);
            auto grown = knuckle(*row, from, to, first, last, g, context, salt + 2);
            auto arm = joint_block({0, from, 0}, {r + g, to, std::min(t, row->axis_z_mm() + r)}, context, salt + 4);
            for (auto* body : {&made, &grown, &arm})
                if (!*body) return pass_on(*body);
            right.push_back(*made);
            right.push_back(*arm);
            halo.push_back(*grown);
        } else {
            auto made = knuckle(*row, from, to, false, false, 0, context, salt);
            auto arm = joint_block({-r - g, from, 0}, {0, to, std::min(t, row->axis_z_mm() + r)}, context, salt + 4);
            // What of the right leaf would be in this knuckle's way: its barrel, larger by the gap.
            KnuckleRow plain = *row;
            auto way = knuckle(plain, from + g, to - g, false, false, g, context, salt + 2);
            for (auto* body : {&made, &arm, &way})
                if (!*body) return pass_on(*body);
            left.push_back(*made);
            left.push_back(*arm);
            clear.push_back(*way);
        }
    }
    auto leaf_right = joint_block({r * 0.2, 0, 0}, {width, len, t}, context, 1),
         leaf_left = joint_block({-width, 0, 0}, {-r * 0.2, len, t}, context, 2);
    if (!leaf_right || !leaf_left) return pass_on(!leaf_right ? leaf_right.error() : leaf_left.error());
    // The leaf keeps clear of the other's knuckles, also above them when it folds.
    auto beside = joint_block({-r, -1, -1}, {r + g, len + 1, t + 1}, context, 3);
    if (!beside) return pass_on(beside);
    auto plain_right = without(*leaf_right, {*beside}, context);
    if (!plain_right) return pass_on(plain_right);
    auto other_side = joint_block({-r - g, -1, -1}, {r, len + 1, t + 1}, context, 4);
    if (!other_side) return pass_on(other_side);
    auto plain_left = without(*leaf_left, {*other_side}, context);
    if (!plain_left) return pass_on(plain_left);
    right.push_back(*plain_right);
    left.push_back(*plain_left);
    auto a = joined(right, context);
    auto envelope = joined(halo, context);
    if (!a || !envelope) return pass_on(!a ? a.error() : envelope.error());
    auto whole_left = joined(left, context);
    if (!whole_left) return pass_on(whole_left);
    auto b = without(*whole_left, {*envelope}, context);
    if (!b) return pass_on(b);
    // The right knuckles' arms pass beside the left ones at the gap.
    std::vector<StepBody> made{{{}, piece_name(context, "right leaf"), *a, {}},
                               {{}, piece_name(context, "left leaf"), *b, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *envelope});
    return stand_joint(before, std::move(made), hold_note(*row), context);
}

} // namespace

StepKind hinge_kind() {
    StepKind kind =
        joint_kind("hinge", "Hinge", "A hinge that comes off the bed joined: knuckles with balls or cones.",
                   {joint_length("length", "30 mm", "along the axis"),
                    joint_length("leaf", "18 mm", "width of each leaf"),
                    joint_length("thickness", "2.4 mm", "of the leaves"),
                    joint_length("barrel", "8 mm", "across the knuckles"),
                    {"knuckles", FieldKind::Count, "3", 2, 51, {}, "of both leaves together"},
                    {"bumps", FieldKind::Choice, "ball", 0, 0, {"ball", "cone"}, "what holds the knuckles"}});
    kind.sentence =
        std::string("Hinge {length} long of {knuckles} knuckles {barrel} across, held by a {bumps} each, leaves "
                    "{leaf} wide and {thickness} thick") +
        joint_standing;
    kind.group = StepGroup::Fits;
    kind.synonyms = {"joint", "pivot"};
    kind.evaluate = make_hinge;
    return kind;
}

} // namespace lp
