// Lays a flat ornament on a round wall of another body.
#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "mesh/grow.h"
#include "steps/bending/deforming.h"
#include "steps/bending/round_wall.h"
#include "steps/pick_bodies.h"
#include <algorithm>

namespace lp {
namespace {

/// How high ornaments stand over the ground they are drawn on.
double top_of(const std::vector<StepBody>& bodies, const std::vector<size_t>& ornaments) {
    double high = 0;
    for (size_t i : ornaments) high = std::max(high, bodies[i].body.box().max().z());
    return high;
}

/// The ornament's place is cut from the wall, and the ornament becomes the plug that fills it but for a gap.
struct LetIn {
    const std::vector<StepBody>& before;
    const StepContext& context; ///< `what`: the ornament's bodies
    const RoundWall& wall;
    const std::string& names;
    std::function<PointMap(double low, double stretch)> laid_at;
    const EdgeLimit& limit;

    Expected<StepResult> run() const {
        constexpr double beyond_mm = 0.5; // a place to fill ends in the open
        const double gap = context.number("gap"), proud = context.number("proud");
        auto ornaments = pick_bodies(before, names, "lay on");
        if (!ornaments) return pass_on(ornaments);
        if (context.number("sunk") < 0)
            return problem(ProblemCode::Range, "The ornament does not reach into the wall: nothing is let in.",
                           "Say how deep it lies in the wall; 0 lets it in as deep as it is high.");
        const double high = top_of(before, *ornaments);
        if (!(high + proud > gap + tolerance::smallest_mm))
            return problem(ProblemCode::Range, "Nothing is left of a plug that is so low.",
                           "Make the ornament higher, or let it stand out further.");
        auto room = deform(before, context, laid_at(0, (high + beyond_mm) / high), limit);
        if (!room) return room;
        std::vector<Body> tools;
        for (size_t i : *ornaments) tools.push_back(room->bodies[i].body);
        auto cut = combine(Operation::Cut, before[wall.body].body, tools, context.task);
        if (!cut) return pass_on(cut);
        // Against the triangles it was cut from: an exact wall holds more than they do.
        const double was = mass_properties(before[wall.body].body.mesh()).volume_mm3;
        if (was - cut->body.mass().volume_mm3 < tolerance::overlap_mm3)
            return problem(ProblemCode::Geometry, "The ornament lies beside the wall: nothing is let in.",
                           "Turn it about the axis or move it along the wall.");
        auto smaller = shrunk(*ornaments, gap);
        if (!smaller) return pass_on(smaller);
        // From its own floor at the gap, less what shrinking took below and above, to the top it should have.
        const double stretch = gap > 0 ? (high + proud - gap) / (high - 2 * gap) : (high + proud) / high;
        auto result = deform(*smaller, context, laid_at(gap - gap * stretch, stretch), limit);
        if (!result) return result;
        result->bodies[wall.body].body = cut->body;
        tell_pieces(*result, wall.body, before[wall.body].body.pieces());
        return result;
    }

    /// Remade smaller by its numbers where that can be, otherwise by its facets.
    Expected<std::vector<StepBody>> shrunk(const std::vector<size_t>& ornaments, double gap) const {
        std::vector<StepBody> bodies = before;
        if (gap == 0) return bodies;
        auto remade = context.remade ? context.remade(-gap) : problem(ProblemCode::Missing, "");
        for (size_t i : ornaments) {
            const double was = before[i].body.mass().volume_mm3, area = before[i].body.mass().area_mm2;
            if (remade && remade->size() == before.size()) {
                const double less = was - (*remade)[i].body.mass().volume_mm3;
                if (less > 0.3 * gap * area && less < 1.2 * gap * area) {
                    bodies[i].body = (*remade)[i].body;
                    continue;
                }
            }
            auto fewer = grow_mesh(before[i].body.mesh(), -gap, {}, context.task);
            if (!fewer && fewer.error().code == ProblemCode::Cancelled) return pass_on(fewer);
            if (!fewer)
                return problem(ProblemCode::Geometry,
                               "No plug is left with a gap of " + format_quantity(gap, QuantityKind::Length) + ".",
                               "Make the gap smaller, or the strokes thicker.");
            bodies[i].body = Body::from_mesh(std::move(fewer->mesh));
        }
        return bodies;
    }
};

/// The laid bodies are joined to the wall's own, or cut from it.
Expected<StepResult> combined_with_wall(const Body& wall, const StepResult& laid_out, size_t wall_body,
                                        const std::string& names, const StepContext& context) {
    std::vector<Body> ornaments;
    std::vector<StepBody> rest;
    auto laid = pick_bodies(laid_out.bodies, names, "lay on");
    for (size_t i : *laid) ornaments.push_back(laid_out.bodies[i].body);
    Operation operation = context.word("does") == "cut" ? Operation::Cut : Operation::Join;
    auto combined = combine(operation, wall, ornaments, context.task);
    if (!combined) return pass_on(combined);
    for (size_t i = 0; i < laid_out.bodies.size(); ++i) {
        if (std::find(laid->begin(), laid->end(), i) != laid->end()) continue;
        rest.push_back(laid_out.bodies[i]);
        if (i == wall_body) rest.back().body = combined->body;
    }
    StepResult joined{rest, laid_out.note, {}};
    joined.tools = {
        {operation, [ornaments]() -> Expected<Body> {
             auto all = combine(Operation::Join, ornaments.front(), {ornaments.begin() + 1, ornaments.end()});
             if (!all) return pass_on(all);
             return all->body;
         }}};
    return joined;
}

} // namespace

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
         {"sunk",
          FieldKind::Length,
          "0 mm",
          -far,
          far,
          {},
          "so deep into the wall, for a safe join; let in, 0 is flush"},
         StepField{"does",
                   FieldKind::Choice,
                   "new",
                   0,
                   0,
                   {"new", "join", "cut", "let in"},
                   "stays a body, is joined to that body, cut from it, or let in: cut, and a plug that fills the place"}
             .as(FieldRole::Does),
         {"gap", FieldKind::Length, "0.1 mm", 0, 5, {}, "of a plug that is let in, all round and below"},
         {"proud", FieldKind::Length, "0 mm", -far, far, {}, "such a plug stands out by this; 0: flush"}});
    kind.sentence = "Lay {what} on {on} at {angle}, {height} up[, {sunk} deep][, within {tolerance}], {does}[, gap "
                    "{gap}][, {proud} proud]";
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
        if (auto laid = pick_bodies(before, names, "lay on"); laid && context.word("does") == "let in" && sunk == 0)
            sunk = top_of(before, *laid);
        // Its heights may be stretched: a place to fill reaches out of the wall, a plug stands off its ground.
        auto laid_at = [&](double low, double stretch) -> PointMap {
            return [&, low, stretch](const Vec3& p) {
                return wall->at(start + p.x() / wall->radius_at(height + p.y()), height + p.y(),
                                low + p.z() * stretch - sunk);
            };
        };
        const PointMap map = laid_at(0, 1);
        EdgeLimit limit = [=](const Vec3&, const Vec3& along) {
            double across = std::fabs(along.x()), up = std::fabs(along.y());
            double length = 1e300;
            if (across > 1e-9) length = std::min(length, chord_for(radius, tolerance_mm) / across);
            if (up > 1e-9) length = std::min(length, chord_for(tightest, tolerance_mm) / up);
            return length;
        };
        if (context.word("does") == "let in") return LetIn{before, own, *wall, names, laid_at, limit}.run();
        auto result = deform(before, own, map, limit);
        if (!result || context.word("does") == "new") return result;
        return combined_with_wall(before[wall->body].body, *result, wall->body, names, context);
    };
    return kind;
}

} // namespace lp
