// A chamfer at the foot where bodies that are printed in each other face each other.
#include "base/quantity.h"
#include "steps/find_plane.h"
#include "steps/fits/chamfered_foot.h"
#include "steps/pick_bodies.h"

namespace lp {
namespace {

Expected<StepResult> chamfer_feet(const std::vector<StepBody>& before, const StepContext& context) {
    StepResult result{before, {}, {}};
    if (context.growth_mm != 0) return result; // a halo keeps the whole gap
    auto chosen = pick_bodies(before, context.word("what"), "chamfer the feet of");
    if (!chosen) return pass_on(chosen);
    if (chosen->size() < 2)
        return problem(ProblemCode::Missing, "There is only one body: nothing faces it at the foot.",
                       "Use it on a part of several bodies that are printed in each other.");
    auto plane = find_plane(before, context, context.value("on"));
    if (!plane) return pass_on(plane);
    // All of them above it: a face is looked at from outside.
    Transform stands = *plane;
    double low = 1e300, high = -1e300;
    for (size_t i : *chosen)
        for (int corner = 0; corner < 8; ++corner) {
            const double z = (stands.inverse() * before[i].body.box().corner(Box3::CornerType(corner))).z();
            low = std::min(low, z);
            high = std::max(high, z);
        }
    if (-low > high) stands = stands * Eigen::AngleAxisd(std::numbers::pi, Vec3::UnitX());
    std::vector<Body> bodies;
    for (size_t i : *chosen) bodies.push_back(before[i].body);
    size_t count = 0;
    auto made = with_chamfered_feet(std::move(bodies), stands, context, count);
    if (!made) return pass_on(made);
    for (size_t k = 0; k < chosen->size(); ++k) result.bodies[(*chosen)[k]].body = (*made)[k];
    if (count == 0)
        result.note = "No two of them stand nearer to each other than the first layer keeps open, " +
                      format_quantity(context.first_layer_gap_mm, QuantityKind::Length, 2) + ".";
    else
        result.note = "In the first layer they are " +
                      format_quantity(context.first_layer_gap_mm, QuantityKind::Length, 2) +
                      " apart, as the printer card asks for.";
    return result;
}

} // namespace

StepKind chamfer_feet_kind() {
    StepKind kind;
    kind.id = "chamfer_feet";
    kind.title = "Chamfered feet";
    kind.purpose = "Keeps bodies that are printed in each other apart in the first layer, which is pressed wider.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"},
                   {"on", FieldKind::Plane, "xy", 0, 0, {}, "plane or face they stand on when they are printed"}};
    kind.sentence = "Chamfer the feet of {what} that stand on {on} in each other";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"first layer", "flare", "fuse", "in place", "elephant foot"};
    kind.for_printer = true;
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 235}};
    kind.evaluate = chamfer_feet;
    return kind;
}

} // namespace lp
