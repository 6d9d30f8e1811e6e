// A ball on a stem in a cap that turns and tilts on it. It stands as it is printed, and nothing in it hangs beyond the
// limit.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

/// A ball on a stem in a cap whose skirt reaches the bed: it swivels about any axis, tilts until the stem meets the
/// mouth.
Expected<StepResult> make_swivel(const std::vector<StepBody>& before, const StepContext& context) {
    const double r = context.number("ball") / 2, wall = context.number("wall");
    const double limit = radians(steepest(context, 30, 60));
    const double stem = context.number("stem") / 2;
    if (auto thin = check_pin(context, "stem", 2 * stem)) return pass_on(*thin);
    auto gap = joint_gap(context, r * 0.3);
    if (!gap) return pass_on(gap);
    const double g = *gap;
    // Below, the ball rests on a cone as steep as the limit that touches it; the cone narrows to the stem.
    const double ring = r * std::cos(limit), below = r * std::sin(limit), slope = std::tan(limit);
    const double drop = (ring - stem) / slope; // of the cone
    if (stem > ring * 0.85)
        return problem(ProblemCode::Range, "The stem is nearly as wide as the ball.",
                       "Make it " + in_mm(2 * ring * 0.85) + " or thinner.");
    const double centre = below + drop + context.number("stem_height");
    // The mouth must hold the ball: narrower than it.
    const double mouth = (r + g) * std::cos(limit), hold = r - mouth;
    if (hold < g + 0.15)
        return problem(ProblemCode::Range,
                       "The cap would not hold the ball: its mouth is only " + in_mm(hold) + " narrower.",
                       "Use a larger ball or a closer fit.");
    std::vector<Curve> ball{Curve::line({0, 0}, {stem, 0}), Curve::line({stem, 0}, {stem, centre - below - drop}),
                            Curve::line({stem, centre - below - drop}, {ring, centre - below}),
                            Curve::arc_between({0, centre}, {ring, centre - below}, {0, centre + r}, true),
                            Curve::line({0, centre + r}, {0, 0})};
    // The cavity: round the ball, a straight mouth below, a cone as roof.
    const double R = r + g, edge = R * std::sin(limit), tip = edge + mouth / slope;
    std::vector<Curve> cavity{Curve::line({0, -1}, {mouth, -1}), Curve::line({mouth, -1}, {mouth, centre - edge}),
                              Curve::arc_between({0, centre}, {mouth, centre - edge}, {mouth, centre + edge}, true),
                              Curve::line({mouth, centre + edge}, {0, centre + tip}),
                              Curve::line({0, centre + tip}, {0, -1})};
    const Transform home = Transform::Identity();
    auto inner = turned_profile(ball, 0, home, context, 1);
    auto hollow = turned_profile(cavity, 0, home, context, 2);
    auto outside = make_cylinder(R + wall, centre + tip + wall, home, joint_tags(context, 3));
    for (auto* body : {&inner, &hollow, &outside})
        if (!*body) return pass_on(*body);
    auto cap = without(*outside, {*hollow}, context);
    if (!cap) return pass_on(cap);
    std::vector<StepBody> made{{{}, piece_name(context, "ball"), *inner, {}},
                               {{}, piece_name(context, "cap"), *cap, {}}};
    made[0].halos.push_back({context.step_id, context.word("fit"), g, *hollow});
    double tilt = degrees(std::asin(std::clamp((mouth - stem) / std::max(edge, 1e-9) * 0.7, 0.0, 1.0)));
    return stand_joint(before, std::move(made),
                       "Print it standing on the stem and the skirt. The mouth holds the ball by " + in_mm(hold) +
                           "; it tilts about " + format_number(tilt, 0) + "° each way.",
                       context);
}

} // namespace

StepKind swivel_cap_kind() {
    StepKind kind = joint_kind("swivel_cap", "Swivel cap", "A ball on a stem in a cap that turns and tilts on it.",
                               {joint_length("ball", "14 mm", "across"), joint_length("stem", "5 mm", "across"),
                                joint_length("stem_height", "2 mm", "of its straight part", 0),
                                joint_length("wall", "2 mm", "of the cap")});
    kind.sentence =
        std::string(
            "Swivel cap with a wall of {wall} on a ball {ball} across, stem {stem} across, {stem_height} straight") +
        joint_standing;
    kind.group = StepGroup::Fits;
    kind.synonyms = {"ball", "joint"};
    kind.evaluate = make_swivel;
    return kind;
}

} // namespace lp
