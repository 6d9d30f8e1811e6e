// Chamfer: edges cut off flat, by one distance, two, or a distance and an angle.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_edges.h"
#include "steps/kernel_step.h"

namespace lp {
namespace {

constexpr double flat_mm3 = 1e-9; ///< share of the volume below which nothing was cut

Expected<Body> bevel(const Body& body, const std::vector<size_t>& edges, const StepContext& context, double first,
                     double second, double angle) {
    KernelCall call;
    call.what = "chamfer";
    call.numbers = {first, second, radians(angle)};
    double length = 0;
    const Tessellation& t = body.tessellation();
    for (size_t e : edges) {
        const EdgeInfo& edge = t.edges[e];
        // The first distance lies on the face that is the more level of the two: the one people measure on.
        auto level = [&](int face) { return face < 0 ? -1 : std::fabs(t.faces[size_t(face)].direction.z()); };
        call.picks.push_back(edge.number);
        call.picks.push_back(level(edge.face_a) >= level(edge.face_b) ? edge.face_a : edge.face_b);
        length += edge.length_mm;
    }
    double size = std::max({first, second, angle > 0 ? first * std::tan(radians(angle)) : 0.0});
    double change = 10 * size * size * (length + 20 * size), volume = body.mass().volume_mm3;
    auto made = run_kernel_step(body, call, context, "A chamfer", volume - change, volume + change);
    if (made && std::fabs(made->mass().volume_mm3 - volume) < flat_mm3 * volume)
        return problem(ProblemCode::Geometry, "The geometry kernel bevelled nothing.", "Choose other edges.");
    return made;
}

} // namespace

StepKind chamfer_kind() {
    StepKind kind;
    kind.id = "chamfer";
    kind.title = "Chamfer";
    kind.purpose = "Cuts edges off flat.";
    kind.fields = {
        StepField{"edges", FieldKind::Edges, "", 0, 0, {}, "picked edges; or all, upright, of a face, made by a step"}
            .filled_by(Filler::Edges),
        {"distance", FieldKind::Length, "1 mm", tolerance::smallest_mm, 1e4, {}, "cut off the more level face"},
        {"other", FieldKind::Length, "0 mm", 0, 1e4, {}, "cut off the steeper face; 0: the same"},
        {"angle", FieldKind::Angle, "0 deg", 0, 89, {}, "against the more level face, instead of the other distance"}};
    kind.sentence = "Chamfer {edges} by {distance}[ and {other}][ at {angle}]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"bevel"};
    kind.needs_exact = true;
    kind.offers = {{.when = Chosen::Edges, .place = 20},
                   {.when = Chosen::Faces, .place = 60, .words = "Chamfer their edges"},
                   {.when = Chosen::Face, .place = 10, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto found = find_edges(before, context, context.value("edges"));
        if (!found) return pass_on(found);
        const Body& body = before[found->body].body;
        double first = context.number("distance"), second = context.number("other"), angle = context.number("angle");
        if (second > 0 && angle > 0)
            return problem(ProblemCode::Range, "A chamfer has a second distance or an angle, not both.",
                           "Set one of them to 0.");
        if (second == 0) second = first;
        if (double g = context.growth_mm; g != 0) {
            double corner = angle_at_edge(body, found->edges[0]);
            for (size_t e : found->edges)
                if (std::fabs(angle_at_edge(body, e) - corner) > 0.5 || second != first || angle > 0)
                    return problem(ProblemCode::Geometry, "Uneven chamfers cannot carry a gap.",
                                   "Use a step for each kind of edge, with one distance.");
            // The flat moves out by the gap, the edge along the bisector by gap / sin(half the angle).
            double half = radians(corner < 180 ? corner : 360 - corner) / 2;
            double by = g * (1 / std::sin(half) - 1) / std::cos(half);
            first = second = first + (corner < 180 ? by : -by);
        }
        auto made = bevel(body, found->edges, context, first, second, angle);
        if (!made) {
            Problem why = made.error();
            if (why.code == ProblemCode::Cancelled || !body.is_exact()) return pass_on(why);
            double good = 0, bad = 1;
            for (int i = 0; i < 8 && !context.cancelled(); ++i) {
                double middle = (good + bad) / 2;
                (bevel(body, found->edges, context, first * middle, second * middle, angle) ? good : bad) = middle;
            }
            double works = std::floor(good * context.number("distance") * 100) / 100;
            why.sentence = "These edges cannot be cut off by " + format_number(context.number("distance")) + " mm.";
            why.advice = works > 0 ? "The largest distance that works is " + format_number(works) + " mm."
                                   : std::string("Choose other edges.");
            if (works > 0) why.cure = FieldCure{"distance", format_number(works) + " mm"};
            return pass_on(why);
        }
        StepResult result{before, {}, {}};
        result.bodies[found->body].body = *made;
        // The middle of the flat lies d cos(half the angle) from the edge where both distances are d.
        if (second == first && angle == 0)
            if (auto handle =
                    handle_at_edge(body, found->edges.front(), "distance", [](double half) { return std::cos(half); }))
                result.handles = {*handle};
        return result;
    };
    return kind;
}

} // namespace lp
