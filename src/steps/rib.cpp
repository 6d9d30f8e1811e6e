// Ribs from an open line up to the body, and gussets in a corner between two faces.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "shape/exact_solids.h"
#include "shape/mesh_distance.h"
#include "steps/find_edges.h"
#include "steps/find_plane.h"
#include "steps/kernel_step.h"
#include "steps/parting.h"
#include "steps/profile_shape.h"
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
    kind.fields = {{"outline", FieldKind::Outline, "", 0, 0, {}, "the open line; its ends are carried on to the body"},
                   {"thickness", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "half to each side"},
                   {"fills",
                    FieldKind::Choice,
                    "right",
                    0,
                    0,
                    {"right", "left"},
                    "the side of the line that is filled, looking along it"}};
    kind.sentence = "Rib of {thickness} from {outline}, filling its {fills}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (before.empty())
            return problem(ProblemCode::Missing, "There is no body yet for a rib.", "Put a solid before this step.");
        auto outline = find_outline(context, context.word("outline"));
        if (!outline) return tl::make_unexpected(outline.error());
        if (open_paths(*(*outline)->shape).empty())
            return problem(ProblemCode::Missing, "A rib needs an open line.", "Draw one from wall to wall.");
        const Body& body = before.front().body;
        const Transform& plane = (*outline)->plane;
        double reach = 4 * (body.box().diagonal().norm() + body.box().center().norm()) + 20;
        bool left = context.word("fills") == "left";
        double half = context.number("thickness") / 2 + context.growth_mm;
        TagSource source{context.step_id, context.copy};
        auto regions = regions_left_of(**outline, reach);
        if (!regions) return tl::make_unexpected(regions.error());
        if (context.growth_mm != 0 && left) regions = grown_regions(*regions, context.growth_mm);
        if (!left && regions) { // the other side: all around, without the left
            auto slab = grown_regions(*regions, -context.growth_mm);
            if (!slab) return tl::make_unexpected(slab.error());
            regions = std::move(*slab);
        }
        if (!regions) return tl::make_unexpected(regions.error());
        auto wall = raised_body(*regions, -half, half, 0, plane, source);
        if (!wall) return tl::make_unexpected(wall.error());
        if (!left) {
            Transform at = plane;
            at.translate(Vec3(-1.9 * reach, -1.9 * reach, -half));
            auto whole = make_block({3.8 * reach, 3.8 * reach, 2 * half}, at, source);
            if (!whole) return tl::make_unexpected(whole.error());
            auto rest = combine(Operation::Cut, *whole, {*wall}, context.task);
            if (!rest) return tl::make_unexpected(rest.error());
            wall = rest->body;
        }
        // What the body leaves of that wall falls into pieces: the one beside the line is the rib.
        auto cut = combine(Operation::Cut, *wall, {body}, context.task);
        if (!cut) return tl::make_unexpected(cut.error());
        auto pieces = separate_pieces(cut->body);
        if (!pieces) return tl::make_unexpected(pieces.error());
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
        if (!joined) return tl::make_unexpected(joined.error());
        StepResult result{before, joined->note, {}};
        result.bodies.front().body = joined->body;
        tell_pieces(result, 0, body.pieces());
        result.tools = {{Operation::Join, [rib]() -> Expected<Body> { return rib; }}};
        return result;
    };
    return kind;
}

StepKind gusset_kind() {
    StepKind kind;
    kind.id = "gusset";
    kind.title = "Gusset";
    kind.purpose = "A three-cornered web in the corner between two flat faces.";
    kind.fields = {{"edges", FieldKind::Edges, "", 0, 0, {}, "the inner edge it stands in"},
                   {"size", FieldKind::Length, "8 mm", tolerance::smallest_mm, 1e4, {}, "along the more level face"},
                   {"angle", FieldKind::Angle, "45 deg", 5, 85, {}, "of its slope against that face"},
                   {"thickness", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "along the edge"},
                   {"at", FieldKind::Number, "0.5", 0, 1, {}, "where along the edge its middle is, as a share"}};
    kind.sentence = "Gusset in {edges}, {size} at {angle}, {thickness} thick[, at {at} of the edge]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = find_edges(before, context, context.word("edges"));
        if (!found) return tl::make_unexpected(found.error());
        const Body& body = before[found->body].body;
        const Tessellation& t = body.tessellation();
        // Named in words, outer edges come along: where there are inner ones, those are meant.
        std::vector<size_t> inner;
        for (size_t e : found->edges)
            if (angle_at_edge(body, e) > 181) inner.push_back(e);
        if (!inner.empty()) found->edges = inner;
        StepResult result{before, {}, {}};
        std::vector<Body> webs;
        double g = context.growth_mm;
        for (size_t number : found->edges) {
            const EdgeInfo& edge = t.edges[number];
            Vec3 run = edge.points.back() - edge.points.front();
            bool straight = run.norm() > 1e-6 && std::fabs(edge.length_mm - run.norm()) < 1e-6;
            bool flat = edge.face_a >= 0 && edge.face_b >= 0 &&
                        t.faces[size_t(edge.face_a)].kind == SurfaceKind::Plane &&
                        t.faces[size_t(edge.face_b)].kind == SurfaceKind::Plane;
            double corner = straight && flat ? angle_at_edge(body, number) : 0;
            if (corner <= 181)
                return problem(ProblemCode::Geometry, "A gusset stands in a straight inner edge between flat faces.",
                               "Choose an edge where two walls meet inward.");
            double thickness = context.number("thickness") + 2 * g;
            if (thickness - 2 * g > run.norm() + 1e-9)
                return problem(ProblemCode::Range, "The gusset is thicker than its edge is long.", "Make it thinner.");
            Vec3 na = t.faces[size_t(edge.face_a)].direction, nb = t.faces[size_t(edge.face_b)].direction;
            if (std::fabs(na.z()) < std::fabs(nb.z())) std::swap(na, nb); // a is the more level face
            Vec3 along = run.normalized();
            // Ways from the edge into the faces: along each face, to where the other one looks.
            Vec3 in_a = along.cross(na), in_b = along.cross(nb);
            if (in_a.dot(nb) < 0) in_a = -in_a;
            if (in_b.dot(na) < 0) in_b = -in_b;
            double open = std::acos(std::clamp(in_a.dot(in_b), -1.0, 1.0)), slope = radians(context.number("angle"));
            double third = std::numbers::pi - open - slope;
            if (third < radians(2))
                return problem(ProblemCode::Range, "At that angle the slope never meets the other face.",
                               "Make the angle smaller.");
            double size = context.number("size"), other = size * std::sin(slope) / std::sin(third);
            if (g != 0) { // the slope moves out by the gap
                double more = g / std::sin(slope);
                other *= (size + more) / size;
                size += more;
            }
            // The web's frame: x along face a, y up from it, z along the edge.
            Transform at = Transform::Identity();
            Vec3 up = (in_b - in_b.dot(in_a) * in_a).normalized();
            at.linear() << in_a, up, in_a.cross(up);
            at.translation() = edge.points.front() + context.number("at") * run;
            std::vector<Vec2> p{{0, 0}, {size, 0}, other * Vec2(std::cos(open), std::sin(open))};
            std::vector<SourcedCurve> border;
            for (size_t k = 0; k < 3; ++k) {
                SourcedCurve s;
                s.curve = Curve::line(p[k], p[(k + 1) % 3]);
                s.key = k + 1;
                border.push_back(s);
            }
            auto drawn = arrange(border);
            if (!drawn) return tl::make_unexpected(drawn.error());
            auto web = raised_body(drawn->regions, -thickness / 2, thickness / 2, 0, at,
                                   {context.step_id, context.copy ^ (uint64_t(webs.size()) << 32)});
            if (!web) return tl::make_unexpected(web.error());
            webs.push_back(*web);
        }
        auto joined = combine(Operation::Join, body, webs, context.task);
        if (!joined) return tl::make_unexpected(joined.error());
        result.note = joined->note;
        result.bodies[found->body].body = joined->body;
        for (const Body& web : webs)
            result.tools.push_back({Operation::Join, [web]() -> Expected<Body> { return web; }});
        return result;
    };
    return kind;
}

} // namespace lp
