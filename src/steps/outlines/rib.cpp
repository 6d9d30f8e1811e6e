// A rib: a wall from an open line up to the body.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "shape/mesh_distance.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/splitting/parting.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

/// A point just off the middle of the drawn line, on the side the rib fills.
Vec2 beside_line(const PlacedOutline& outline, bool left) {
    auto paths = open_paths(*outline.shape);
    const Curve& c = paths.front()[paths.front().size() / 2].curve;
    double t = c.end() / 2, e = c.end() * 1e-4;
    Vec2 d = (c.at(t + e) - c.at(t - e)).normalized();
    return c.at(t) + (left ? 1e-3 : -1e-3) * Vec2(-d.y(), d.x());
}

} // namespace

StepKind rib_kind() {
    StepKind kind;
    kind.id = "rib";
    kind.title = "Rib";
    kind.purpose = "Fills between a drawn open line and the body with a wall of a thickness.";
    kind.fields = {
        StepField{"outline", FieldKind::Outline, "", 0, 0, {}, "the open line; its ends are carried on to the body"}
            .optional("the last outline"),
        {"thickness", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "half to each side"},
        {"fills",
         FieldKind::Choice,
         "right",
         0,
         0,
         {"right", "left"},
         "the side of the line that is filled, looking along it"}};
    kind.sentence = "Rib of {thickness} from {outline}, filling its {fills}";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"web", "stiffener"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (before.empty())
            return problem(ProblemCode::Missing, "There is no body yet for a rib.", "Put a solid before this step.");
        auto outline = find_outline(context, context.word("outline"));
        if (!outline) return pass_on(outline);
        if (open_paths(*(*outline)->shape).empty())
            return problem(ProblemCode::Missing, "A rib needs an open line.", "Draw one from wall to wall.");
        const Body& body = before.front().body;
        const Transform& plane = (*outline)->plane;
        double reach = 4 * (body.box().diagonal().norm() + body.box().center().norm()) + 20;
        bool left = context.word("fills") == "left";
        double half = context.number("thickness") / 2 + context.growth_mm;
        TagSource source = context.source();
        auto regions = regions_left_of(**outline, reach);
        if (!regions) return pass_on(regions);
        if (context.growth_mm != 0 && left) regions = grown_regions(*regions, context.growth_mm);
        if (!left && regions) { // the other side: all around, without the left
            auto slab = grown_regions(*regions, -context.growth_mm);
            if (!slab) return pass_on(slab);
            regions = std::move(*slab);
        }
        if (!regions) return pass_on(regions);
        auto wall = raised_body(*regions, -half, half, 0, plane, source);
        if (!wall) return pass_on(wall);
        if (!left) {
            Transform at = plane;
            at.translate(Vec3(-1.9 * reach, -1.9 * reach, -half));
            auto whole = make_block({3.8 * reach, 3.8 * reach, 2 * half}, at, source);
            if (!whole) return pass_on(whole);
            auto rest = combine(Operation::Cut, *whole, {*wall}, context.task);
            if (!rest) return pass_on(rest);
            wall = rest->body;
        }
        // What the body leaves of that wall falls into pieces: the one beside the line is the rib.
        auto cut = combine(Operation::Cut, *wall, {body}, context.task);
        if (!cut) return pass_on(cut);
        auto pieces = separate_pieces(cut->body);
        if (!pieces) return pass_on(pieces);
        Vec2 beside = beside_line(**outline, left);
        Vec3 at = plane * Vec3(beside.x(), beside.y(), 0);
        Body rib;
        for (const Body& piece : *pieces)
            if (DistanceTree(piece.mesh()).inside(at)) rib = piece;
        if (!rib) return problem(ProblemCode::Geometry, "The line lies inside the body.", "Draw it in the open.");
        if (rib.box().sizes().maxCoeff() > reach / 2)
            return problem(ProblemCode::Geometry, "On that side the rib reaches no wall: it would run on for ever.",
                           "Fill the other side, or let the line's ends point at the body.");
        auto joined = combine(Operation::Join, body, {rib}, context.task);
        if (!joined) return pass_on(joined);
        StepResult result{before, joined->note, {}};
        result.bodies.front().body = joined->body;
        tell_pieces(result, 0, body.pieces());
        result.tools = {{Operation::Join, [rib]() -> Expected<Body> { return rib; }}};
        return result;
    };
    return kind;
}

} // namespace lp
