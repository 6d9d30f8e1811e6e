// An outline: a flat drawing on a plane or face of the part, worked out where it stands.
#include "base/tolerance.h"
#include "steps/bodies_of.h"
#include "steps/find_plane.h"
#include "steps/outlines/edge_in_plane.h"
#include "steps/outlines/silhouette.h"
#include "steps/pick_bodies.h"

namespace lp {
namespace {

/// An edge of the part seen along the plane's normal: a line, arc or circle in the drawing.
Expected<Curve> project_edge(const std::vector<StepBody>& before, const Transform& plane,
                             const GeometryItem& followed) {
    const EdgeReference* reference = followed.edge();
    if (!reference)
        return problem(ProblemCode::File, "An element follows an edge whose description cannot be read.",
                       "Take the edge again.");
    if (before.empty())
        return problem(ProblemCode::Missing, "The edge an element follows is gone.",
                       "Take the edge again, or remove the element.");
    const auto edge = resolve_among(bodies_of(before), *reference);
    if (!edge) return pass_on(edge);
    return edge_in_plane(before[edge->body].body.tessellation().edges[edge->index], plane);
}

} // namespace

Expected<Curve> edge_in_plane(const EdgeInfo& edge, const Transform& plane) {
    Transform back = plane.inverse();
    std::vector<Vec2> p;
    for (const Vec3& v : edge.points) p.push_back((back * v).head<2>());
    Vec2 a = p.front(), b = p.back();
    bool closed = (a - b).norm() < 1e-9;
    double worst = 0, reach = 0;
    for (const Vec2& q : p) {
        reach = std::max(reach, (q - a).norm());
        if (!closed) worst = std::max(worst, std::fabs(cross2((b - a).normalized(), q - a)));
    }
    if (reach < 1e-6)
        return problem(ProblemCode::Geometry, "That edge stands upright to the drawing: it is a point there.",
                       "Choose another.");
    if (!closed && worst < 1e-6) return Curve::line(a, b);
    // A circle through three of its points; the others must lie on it.
    Curve arc = Curve::arc_through(a, p[p.size() / 2], closed ? p[p.size() / 4] : b);
    if (arc.kind == Curve::Kind::Arc) {
        double off = 0;
        for (const Vec2& q : p) off = std::max(off, std::fabs((q - arc.centre).norm() - arc.radius));
        if (off < 1e-6 * std::max(1.0, arc.radius)) return closed ? Curve::circle(arc.centre, arc.radius) : arc;
    }
    return problem(ProblemCode::Geometry, "That edge is neither straight nor round as seen on the drawing.",
                   "Choose another.");
}

StepKind outline_kind() {
    StepKind kind;
    kind.id = "outline";
    kind.title = "Outline";
    kind.purpose = "A flat drawing with dimensions, to extrude, turn, sweep or loft from.";
    const double far = tolerance::largest_mm;
    kind.fields = {{"on", FieldKind::Plane, "xy", 0, 0, {}, "plane or face it is drawn on"},
                   {"distance", FieldKind::Length, "0 mm", -far, far, {}, "above that plane or face"},
                   {"drawing", FieldKind::Drawing, "{}", 0, 0, {}, "points, elements and constraints"}};
    kind.sentence = "Outline {drawing} on {on}[, {distance} above it]";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"sketch", "drawing", "profile"};
    kind.offers = {
        {.when = Chosen::Nothing, .place = 40, .hint = "A flat drawing on the ground, to extrude or turn from"},
        {.when = Chosen::Face, .place = 20, .words = "Outline here", .hint = "A flat drawing on this face"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        StepResult result{before, {}, {}};
        if (context.nominal) { // drawings do not grow: what is raised from them does
            result.place = context.nominal;
            return result;
        }
        auto plane = find_plane(before, context, context.value("on"));
        if (!plane) return pass_on(plane);
        plane->translate(Vec3(0, 0, context.number("distance")));
        const Expected<Drawing>& drawing = context.value("drawing").drawing();
        if (!drawing) return pass_on(drawing);
        OutlineInputs inputs;
        inputs.parameters = context.parameters;
        inputs.import_paths = context.import_paths;
        inputs.task = context.task;
        inputs.follow = [&](const GeometryItem& edge) { return project_edge(before, *plane, edge); };
        inputs.silhouette = [&](const std::string& names) -> Expected<FlatPaths> {
            auto chosen = pick_bodies(before, names, "see");
            if (!chosen) return pass_on(chosen);
            std::vector<const Body*> bodies;
            for (size_t i : *chosen) bodies.push_back(&before[i].body);
            return silhouette_of(bodies, *plane);
        };
        auto shape = make_outline(*drawing, inputs);
        if (!shape) {
            Problem why = shape.error(); // places are in the drawing: out into the part
            if (why.point) why.point = *plane * *why.point;
            return pass_on(why);
        }
        for (const std::string& note : shape->notes) result.note += (result.note.empty() ? "" : " ") + note;
        PlacedOutline placed{context.step_id, context.name, *plane,
                             std::make_shared<const OutlineShape>(std::move(*shape))};
        result.place = StepPlace{*plane, placed, {}};
        return result;
    };
    return kind;
}

} // namespace lp
