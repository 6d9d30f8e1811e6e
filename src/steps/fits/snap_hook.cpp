// A hook on a springy arm that clicks in behind an edge: a beam held at its foot, with the strain there.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/fits/bending_beam.h"
#include "steps/fits/joint_parts.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {
namespace {

struct Hook {
    double length, thick, tip, wide, catches, lead, holds;

    explicit Hook(const StepContext& c)
        : length(c.number("length")), thick(c.number("thick")), tip(c.number("tip")), wide(c.number("wide")),
          catches(c.number("catches")), lead(radians(c.number("lead"))), holds(radians(c.number("holds"))) {
        if (tip == 0) tip = thick;
    }
    double land() const { return std::max(0.4, thick / 4); } ///< the nose's edge, so that it is no knife
    double top() const { return length + rise() + land() + catches / std::tan(lead); }
    double rise() const { return holds > radians(89.0) ? 0 : catches / std::tan(holds); }

    /// x: the way it catches, y: up along it. Its front stands over the origin.
    std::vector<Vec2> profile() const {
        std::vector<Vec2> p{{-thick, 0}, {0, 0}, {0, length}, {catches, length + rise()}};
        p.push_back({catches, length + rise() + land()});
        p.push_back({0, top()});
        p.push_back({-tip, top()});
        p.push_back({-tip, length});
        if (thick - tip < 1e-9) p.pop_back();
        return p;
    }
    BendingBeam beam(const StepContext& c) const { return {length, thick, wide, tip / thick, c.modulus_mpa}; }
};

std::optional<Problem> check_hook(const Hook& hook, const StepContext& context) {
    if (auto thin = check_spring(context, hook.tip)) return thin;
    if (hook.tip > hook.thick + 1e-9 || hook.tip < hook.thick / 2 - 1e-9)
        return Problem{ProblemCode::Range, "The tip of the arm is half as thick as its root, up to as thick.",
                       "Use " + in_mm(hook.thick / 2) + " to " + in_mm(hook.thick) + ", or 0 for an even arm."};
    if (hook.length < 3 * hook.thick)
        return Problem{ProblemCode::Range, "An arm shorter than three times its thickness does not bend, it shears.",
                       "Make it " + in_mm(3 * hook.thick) + " or longer, or thinner."};
    return std::nullopt;
}

std::string newtons(double force) {
    return std::isfinite(force) ? format_number(force, force < 10 ? 1 : 0) + " N" : std::string();
}

/// What bending it takes; a longer arm as the cure where the material does not stand it.
void tell(const Hook& hook, const StepContext& context, StepResult& result) {
    const BendingBeam beam = hook.beam(context);
    const double force = beam.force_n(hook.catches), longest = context.strain_percent / 100,
                 longer = std::ceil(beam.length_for(hook.catches, longest) * 2 - 1e-6) / 2;
    const std::string in = newtons(mating_force(force, hook.lead)), out = newtons(mating_force(force, hook.holds));
    if (hook.length < beam.length_for(hook.catches, longest) - 1e-6)
        result.cure = FieldCure{"length", in_mm(longer), "Make it " + in_mm(longer) + " long"};
    add_note(result, "Its root is " + strain_words(context, 100 * beam.strain_at(hook.catches), "it breaks") + ". " +
                         (in.empty() ? std::string("It jams going in") : in + " push it in") + ", " +
                         (out.empty() ? std::string("it does not come out by itself") : out + " pull it out") +
                         ". Leave " + in_mm(hook.catches) + " free behind it, and print it lying.");
}

Expected<StepResult> make_hook(const std::vector<StepBody>& before, const StepContext& context) {
    const Hook hook(context);
    const double g = context.growth_mm;
    if (g == 0)
        if (auto wrong = check_hook(hook, context)) return pass_on(*wrong);
    BendingSolid solid;
    solid.make = [&](const Transform& foot) {
        // The profile stands upright: its x stays, its y goes up, and it is drawn out to both sides.
        Transform at = foot;
        at.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
        at.translate(Vec3(0, 0, -hook.wide / 2 - g));
        return raised_profile(hook.profile(), hook.wide + 2 * g, g, at, context, 1);
    };
    solid.bends = [&](const Transform& at) {
        return std::vector<Bending>{{context.step_id, at.translation(), at.linear().col(2)}};
    };
    solid.handles = {size_one_way("length", Vec3::Zero(), Vec3::UnitZ())};
    auto result = place_bending(before, context, solid);
    if (result && is_told(context)) tell(hook, context, *result);
    return result;
}

} // namespace

StepKind snap_hook_kind() {
    StepKind kind;
    kind.id = "snap_hook";
    kind.title = "Snap hook";
    kind.purpose = "A hook on a springy arm that clicks in behind an edge, with the strain at its root.";
    kind.fields = {
        joint_length("length", "16 mm", "from its foot to where it catches"),
        joint_length("thick", "1.8 mm", "of the arm at its root"),
        {"tip", FieldKind::Length, "0 mm", 0, 500, {}, "thickness at the tip, at least half; 0: even"},
        joint_length("wide", "8 mm", "of the arm"),
        joint_length("catches", "1 mm", "how far the nose stands out, and the arm bends", 0.1),
        {"lead", FieldKind::Angle, "30 deg", 5, 80, {}, "of the slope that goes in, from the way in"},
        {"holds", FieldKind::Angle, "90 deg", 20, 90, {}, "of the side that holds; 90: it does not come out"},
        {"turn", FieldKind::Angle, "0 deg", -360, 360, {}, "about its own axis: where the nose looks"}};
    for (StepField& field : placing_fields({.from = {}})) kind.fields.push_back(field);
    kind.sentence =
        "Snap hook {length} long, {thick} thick[, {tip} at its tip], {wide} wide, catching {catches}[, led in "
        "at {lead}][, holding at {holds}], at {at_x}, {at_y}, {at_z}[ on {on}], along {along}[, turned "
        "{turn}], {does}";
    kind.group = StepGroup::Fits;
    kind.for_printer = true;
    kind.reports = true;
    kind.synonyms = {"click", "latch", "catch", "cantilever", "snap fit", "barb", "close", "lid"};
    kind.offers = {
        {.when = Chosen::Nothing, .place = 250},
        {.when = Chosen::Face, .place = 72, .words = "Snap hook here", .stands_there = true, .folded = true}};
    kind.evaluate = make_hook;
    return kind;
}

} // namespace lp
