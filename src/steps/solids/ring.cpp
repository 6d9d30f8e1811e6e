// A round ring: a torus, or flat with square edges.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind ring_kind() {
    StepKind kind = profile_solid(
        "ring", "Ring", "A round ring: a torus, or flat with square edges.",
        {solid_length("diameter", "30 mm", "outside, across"),
         solid_length("thickness", "5 mm", "of the ring, outside to inside"),
         {"section", FieldKind::Choice, "round", 0, 0, {"round", "square"}, "of the ring when cut through"},
         solid_length("height", "5 mm", "of a square section")});
    kind.sentence =
        std::string("Ring {diameter} across, {thickness} thick, {section}[, {height} high],") + profile_solid_place;
    kind.group = StepGroup::Solids;
    kind.synonyms = {"torus", "doughnut", "washer"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        double outer = context.number("diameter") / 2, t = context.number("thickness"), h = context.number("height");
        bool round = context.word("section") == "round";
        if (t > outer + 1e-9)
            return problem(ProblemCode::Range,
                           "The ring is " + format_quantity(t, QuantityKind::Length) + " thick and only " +
                               format_quantity(2 * outer, QuantityKind::Length) + " across.",
                           "Make it thinner, or wider across.");
        std::vector<SizeHandle> handles{diameter_handle("diameter", round ? t / 2 : h)};
        if (!round) handles.push_back(size_one_way("height", {outer - t / 2, 0, 0}, Vec3::UnitZ()));
        return place_solid(
            before, context, 0,
            [&](const Transform& at) {
                std::vector<Curve> profile;
                if (round) {
                    profile = {Curve::circle({outer - t / 2, t / 2}, t / 2)};
                } else {
                    double inner = outer - t;
                    profile = {Curve::line({inner, 0}, {outer, 0}), Curve::line({outer, 0}, {outer, h}),
                               Curve::line({outer, h}, {inner, h}), Curve::line({inner, h}, {inner, 0})};
                }
                return turned_profile(profile, context.growth_mm, at, context.source());
            },
            handles);
    };
    return kind;
}

} // namespace lp
