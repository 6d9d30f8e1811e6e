// A three-cornered web in the corner between two flat faces.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_edges.h"
#include "steps/kernel_step.h"
#include "steps/solids/profile_shape.h"

namespace lp {

namespace {

/// Where along an edge the middles of the webs are, as shares of it: the one that is typed, or several evenly from end
/// to end, the outer ones flush with its ends. `thick` is a share too.
std::vector<double> places_along(const StepContext& context, double thick) {
    const auto many = size_t(std::lround(context.number("many")));
    if (many < 2) return {context.number("at")};
    std::vector<double> places;
    for (size_t i = 0; i < many; ++i) places.push_back(thick / 2 + (1 - thick) * double(i) / double(many - 1));
    return places;
}

Expected<StepResult> make_gussets(const std::vector<StepBody>& before, const StepContext& context) {
    auto found = find_edges(before, context, context.value("edges"));
    if (!found) return pass_on(found);
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
        bool flat = edge.face_a >= 0 && edge.face_b >= 0 && t.faces[size_t(edge.face_a)].kind == SurfaceKind::Plane &&
                    t.faces[size_t(edge.face_b)].kind == SurfaceKind::Plane;
        double corner = straight && flat ? angle_at_edge(body, number) : 0;
        if (corner <= 181)
            return problem(ProblemCode::Geometry, "A gusset stands in a straight inner edge between flat faces.",
                           "Choose an edge where two walls meet inward.");
        double thickness = context.number("thickness") + 2 * g;
        if (context.number("many") > 1 && context.number("many") * (thickness - 2 * g) > run.norm())
            return problem(ProblemCode::Range, "So many gussets have no room on their edge.",
                           "Take fewer, or make them thinner.");
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
        std::vector<Vec2> p{{0, 0}, {size, 0}, other * Vec2(std::cos(open), std::sin(open))};
        std::vector<SourcedCurve> border;
        for (size_t k = 0; k < 3; ++k) {
            SourcedCurve s;
            s.curve = Curve::line(p[k], p[(k + 1) % 3]);
            s.key = k + 1;
            border.push_back(s);
        }
        auto drawn = arrange(border);
        if (!drawn) return pass_on(drawn);
        for (double share : places_along(context, (thickness - 2 * g) / run.norm())) {
            at.translation() = edge.points.front() + share * run;
            auto web = raised_body(drawn->regions, -thickness / 2, thickness / 2, 0, at,
                                   {context.step_id, context.copy ^ (uint64_t(webs.size()) << 32)});
            if (!web) return pass_on(web);
            webs.push_back(*web);
        }
    }
    auto joined = combine(Operation::Join, body, webs, context.task);
    if (!joined) return pass_on(joined);
    result.note = joined->note;
    result.bodies[found->body].body = joined->body;
    for (const Body& web : webs) result.tools.push_back({Operation::Join, [web]() -> Expected<Body> { return web; }});
    return result;
}

} // namespace

StepKind gusset_kind() {
    StepKind kind;
    kind.id = "gusset";
    kind.title = "Gusset";
    kind.purpose = "A three-cornered web in the corner between two flat faces.";
    kind.fields = {
        StepField{"edges", FieldKind::Edges, "", 0, 0, {}, "the inner edge it stands in"}.filled_by(Filler::Edges),
        {"size", FieldKind::Length, "8 mm", tolerance::smallest_mm, 1e4, {}, "along the more level face"},
        {"angle", FieldKind::Angle, "45 deg", 5, 85, {}, "of its slope against that face"},
        {"thickness", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "along the edge"},
        {"at", FieldKind::Number, "0.5", 0, 1, {}, "where along the edge its middle is, as a share"},
        {"many", FieldKind::Count, "1", 1, 100, {}, "evenly along the edge; the outer ones flush with its ends"}};
    kind.sentence = "Gusset in {edges}, {size} at {angle}, {thickness} thick[, at {at} of the edge][, {many} of them]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"bracket", "brace"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Edge, .place = 50}};
    kind.evaluate = make_gussets;
    return kind;
}

} // namespace lp
