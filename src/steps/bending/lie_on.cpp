// Lays a flat ornament on a round wall of another body.
#include "base/text.h"
#include "base/tolerance.h"
#include "steps/bending/deforming.h"
#include "steps/bending/round_wall.h"
#include "steps/pick_bodies.h"
#include <algorithm>

namespace lp {

StepKind lie_on_kind() {
    StepKind kind;
    kind.id = "lie_on";
    kind.title = "Lie on";
    kind.purpose = "Lays a flat ornament, drawn on the ground, on a round wall of another body.";
    const double far = tolerance::largest_mm;
    kind.fields = bending_fields(
        {StepField{"on", FieldKind::Face, "", 0, 0, {}, "a cylinder, cone or surface of revolution"}.filled_by(
             Filler::NextFace),
         {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "round the axis, where the ornament's origin goes"},
         {"height", FieldKind::Length, "0 mm", -far, far, {}, "along the wall from its lower end"},
         {"sunk", FieldKind::Length, "0 mm", -far, far, {}, "so deep into the wall, for a safe join"},
         StepField{"does",
                   FieldKind::Choice,
                   "new",
                   0,
                   0,
                   {"new", "join", "cut"},
                   "stays a body, is joined to that body, or cut from it"}
             .as(FieldRole::Does)});
    kind.sentence = "Lay {what} on {on} at {angle}, {height} up[, {sunk} deep][, within {tolerance}], {does}";
    kind.group = StepGroup::Bending;
    kind.synonyms = {"wrap", "emboss"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto wall = round_wall(before, context, context.value("on"));
        if (!wall) return pass_on(wall);
        double start = radians(context.number("angle")), height = context.number("height"),
               sunk = context.number("sunk");
        double tolerance_mm = context.number("tolerance"), radius = wall->smallest_radius(),
               tightest = wall->tightest_bend();
        auto chosen = pick_bodies(before, context.word("what"), "lay on");
        if (!chosen) return pass_on(chosen);
        for (size_t i : *chosen)
            if (i == wall->body && context.word("what") != "all")
                return problem(ProblemCode::Wording, "A body cannot lie on itself.", "Name the ornament's body.");
        std::string names; // everything but the wall's own body
        for (size_t i : *chosen)
            if (i != wall->body) names += (names.empty() ? "" : ", ") + to_text(before[i].made_by);
        if (names.empty())
            return problem(ProblemCode::Missing, "There is no ornament besides the body it lies on.",
                           "Let the ornament stand as a new body first.");
        StepContext own = context;
        own.words["what"] = names;
        PointMap map = [&](const Vec3& p) {
            return wall->at(start + p.x() / wall->radius_at(height + p.y()), height + p.y(), p.z() - sunk);
        };
        EdgeLimit limit = [=](const Vec3&, const Vec3& along) {
            double across = std::fabs(along.x()), up = std::fabs(along.y());
            double length = 1e300;
            if (across > 1e-9) length = std::min(length, chord_for(radius, tolerance_mm) / across);
            if (up > 1e-9) length = std::min(length, chord_for(tightest, tolerance_mm) / up);
            return length;
        };
        auto result = deform(before, own, map, limit);
        if (!result || context.word("does") == "new") return result;
        std::vector<Body> ornaments;
        std::vector<StepBody> rest;
        auto laid = pick_bodies(result->bodies, names, "lay on");
        for (size_t i : *laid) ornaments.push_back(result->bodies[i].body);
        Operation operation = context.word("does") == "cut" ? Operation::Cut : Operation::Join;
        auto combined = combine(operation, before[wall->body].body, ornaments, context.task);
        if (!combined) return pass_on(combined);
        for (size_t i = 0; i < result->bodies.size(); ++i) {
            if (std::find(laid->begin(), laid->end(), i) != laid->end()) continue;
            rest.push_back(result->bodies[i]);
            if (i == wall->body) rest.back().body = combined->body;
        }
        Body ornament = ornaments.front();
        StepResult joined{rest, result->note, {}};
        joined.tools = {
            {operation, [ornaments]() -> Expected<Body> {
                 auto all = combine(Operation::Join, ornaments.front(), {ornaments.begin() + 1, ornaments.end()});
                 if (!all) return pass_on(all);
                 return all->body;
             }}};
        return joined;
    };
    return kind;
}

} // namespace lp
