// A clip that is pressed onto a rod: a springy ring with a mouth, on a foot.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/fits/bending_beam.h"
#include "steps/fits/joint_parts.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {
namespace {

struct Clip {
    double rod, bore, thick, wide, tip_at; ///< radii of rod and bore; the tip's middle, radians from straight down

    Clip(const StepContext& c, double gap)
        : rod(c.number("rod") / 2), bore(rod + gap), thick(c.number("thick")), wide(c.number("wide")),
          tip_at(radians(c.number("wraps") / 2)) {}
    double mean() const { return bore + thick / 2; }
    double outer() const { return bore + thick; }
    double foot_half() const { return 0.55 * outer(); }
    double middle() const { return outer() + thick / 2; } ///< of the rod above the foot's face
    double root_at() const { return std::asin(foot_half() / outer()); }
    double mouth() const { return 2 * mean() * std::sin(tip_at) - thick; } ///< between its round tips
    double aside() const { return std::max(0.0, rod - mouth() / 2); }      ///< of each arm when the rod goes in
    BendingArc arm(const StepContext& c) const { return {mean(), thick, wide, root_at(), tip_at, c.modulus_mpa}; }

    /// x to the right, y up; the foot's middle is the origin.
    std::vector<Curve> profile() const {
        const Vec2 m(0, middle());
        auto on = [&](double radius, double at) {
            return Vec2(m.x() + radius * std::sin(at), m.y() - radius * std::cos(at));
        };
        const double root = root_at();
        const Vec2 right = on(outer(), root), left = on(outer(), -root);
        std::vector<Curve> p;
        p.push_back(Curve::line({-foot_half(), 0}, {foot_half(), 0}));
        p.push_back(Curve::line({foot_half(), 0}, right));
        p.push_back(Curve::arc_between(m, right, on(outer(), tip_at), true));
        p.push_back(Curve::arc_between(on(mean(), tip_at), on(outer(), tip_at), on(bore, tip_at), true));
        p.push_back(Curve::arc_between(m, on(bore, tip_at), on(bore, -tip_at), false));
        p.push_back(Curve::arc_between(on(mean(), -tip_at), on(bore, -tip_at), on(outer(), -tip_at), true));
        p.push_back(Curve::arc_between(m, on(outer(), -tip_at), left, true));
        p.push_back(Curve::line(left, {-foot_half(), 0}));
        return p;
    }
    /// The most that pressing the rod in takes: it wedges the round tips apart, ever less steeply.
    double press_n(const StepContext& c) const {
        double most = 0;
        const BendingArc arm = this->arm(c);
        for (int k = 0; k <= 100; ++k) {
            const double x = aside() * k / 100, across = (mouth() / 2 + x + thick / 2) / (rod + thick / 2);
            if (across >= 1) break;
            most = std::max(most, 2 * mating_force(arm.force_n(x), std::acos(across)));
        }
        return most;
    }
};

void tell(const Clip& clip, const StepContext& context, StepResult& result) {
    const std::string mouth = "Its mouth is " + in_mm(clip.mouth()) + " wide";
    if (clip.aside() <= 0) return add_note(result, mouth + ": the rod falls out. Let it wrap further round.");
    const double press = clip.press_n(context);
    add_note(result, mouth + "; by the rod its arms are " +
                         strain_words(context, 100 * clip.arm(context).strain_at(clip.aside()),
                                      "they break. Make it thinner, or wrap less of the rod") +
                         (std::isfinite(press) ? ". About " + format_number(press, 0) + " N press it on."
                                               : ". It jams: wrap less.") +
                         " Print it with the rod's axis upright.");
}

Expected<StepResult> make_clip(const std::vector<StepBody>& before, const StepContext& context) {
    auto gap = context.fit_gap(context.word("fit"), "");
    if (!gap) return pass_on(gap);
    const Clip clip(context, *gap);
    const double g = context.growth_mm;
    if (g == 0) {
        if (auto thin = check_spring(context, clip.thick)) return pass_on(*thin);
        if (clip.thick > clip.bore)
            return problem(ProblemCode::Range, "Arms thicker than half the rod do not spring.",
                           "Make them " + in_mm(clip.bore) + " or thinner.");
        if (clip.bore <= 0 || clip.mouth() < 0.2)
            return problem(ProblemCode::Range, "The clip has no mouth: its arms meet.", "Let it wrap less of the rod.");
    }
    BendingSolid solid;
    solid.make = [&](const Transform& foot) -> Expected<Body> {
        Transform at = foot;
        at.rotate(Eigen::AngleAxisd(std::numbers::pi / 2, Vec3::UnitX()));
        auto regions = region_of(clip.profile());
        if (regions && g != 0) regions = grown_regions(*regions, g);
        if (!regions) return pass_on(regions);
        return raised_body(*regions, -clip.wide / 2 - g, clip.wide / 2 + g, 0, at, joint_tags(context, 1));
    };
    solid.bends = [&](const Transform& at) { // round the rod: both ways in the plane its axis stands on
        const Vec3 root = at * Vec3(0, 0, clip.middle() - clip.mean());
        return std::vector<Bending>{{context.step_id, root, at.linear().col(0)},
                                    {context.step_id, root, at.linear().col(2)}};
    };
    auto result = place_bending(before, context, solid);
    if (result && is_told(context)) tell(clip, context, *result);
    return result;
}

} // namespace

StepKind rod_clip_kind() {
    StepKind kind;
    kind.id = "rod_clip";
    kind.title = "Clip for a rod";
    kind.purpose = "A springy ring with a mouth that is pressed onto a rod, with the strain of its arms.";
    kind.fields = {joint_length("rod", "10 mm", "across"),
                   joint_length("thick", "1.8 mm", "of the arms"),
                   joint_length("wide", "8 mm", "along the rod"),
                   {"wraps", FieldKind::Angle, "230 deg", 181, 330, {}, "how far its arms reach round the rod"},
                   {"fit",
                    FieldKind::Fit,
                    "slide",
                    0,
                    0,
                    {},
                    "of the closed clip on the rod: a named fit, or a gap a "
                    "face in mm"},
                   {"turn", FieldKind::Angle, "0 deg", -360, 360, {}, "about its own axis"}};
    for (StepField& field : placing_fields({.from = {}})) kind.fields.push_back(field);
    kind.sentence = "Clip for a rod {rod} across, arms {thick} thick and {wide} wide that reach {wraps} round it, fit "
                    "{fit}, at {at_x}, {at_y}, {at_z}[ on {on}], along {along}[, turned {turn}], {does}";
    kind.group = StepGroup::Fits;
    kind.for_printer = true;
    kind.reports = true;
    kind.synonyms = {"snap", "click", "pipe", "tube", "pole", "cane", "hold", "spring"};
    kind.offers = {{.when = Chosen::Nothing, .place = 252},
                   {.when = Chosen::Face, .place = 73, .words = "Clip here", .stands_there = true, .folded = true}};
    kind.evaluate = make_clip;
    return kind;
}

} // namespace lp
