// The lugs of a twist lock on a round wall.
#include "base/tolerance.h"
#include "shape/exact_boolean.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"
#include "steps/fits/lock_parts.h"

namespace lp {

StepKind lock_lugs_kind() {
    StepKind kind;
    kind.id = "lock_lugs";
    kind.title = "Lock lugs";
    kind.purpose = "Stands the lugs of a twist lock on a round wall.";
    kind.fields = lock_fields({});
    kind.sentence = "Stand {count} lug|lugs {width} wide and {depth} high {side} on radius {radius}, from {angle} at "
                    "{at_z}[, on {what}][, about {at_x}, {at_y}]";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"bayonet"};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double r = context.number("radius"), depth = context.number("depth"), g = context.growth_mm;
        bool outward = context.word("side") == "outward";
        // Rooted in the wall, a little deeper than its face.
        // A wide lug's sides leave a round wall sooner than its middle.
        const double half = context.number("width") / 2 + g, away = std::sqrt(std::max(0.0, r * r - half * half));
        double root = std::min(1.5, depth), low = outward ? std::min(r - root, away - 0.3) : r - depth - g,
               high = outward ? r + depth + g : r + root;
        if (low < 0.05) low = 0.05;
        Transform at = Transform::Identity();
        at.rotate(Eigen::AngleAxisd(radians(context.number("angle")), Vec3::UnitZ()));
        at.translate(Vec3(low, 0, context.number("at_z")));
        at.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitY()));
        auto lug = make_cylinder(half, high - low, at, joint_tags(context, 1));
        if (!lug) return pass_on(lug);
        if (outward) { // its tip follows the round: a flat one's corners stand nearer to the groove than its middle
            Transform foot = Transform::Identity();
            foot.translate(Vec3(0, 0, context.number("at_z") - half - 1));
            auto round = make_cylinder(high, 2 * half + 2, foot, joint_tags(context, 2));
            if (!round) return pass_on(round);
            auto tip = combine_exact(Operation::Common, *lug, {*round}, context.task);
            if (!tip) return pass_on(tip);
            lug = *tip;
        }
        auto tools = round_the_wall({*lug}, context);
        if (!tools) return pass_on(tools);
        return apply_lock(before, context, Operation::Join, *tools);
    };
    return kind;
}

} // namespace lp
