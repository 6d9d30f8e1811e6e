// Bending, skewing, twisting and tapering: bodies become faceted, finely enough for a stated tolerance.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "mesh/refine.h"
#include "mesh/soundness.h"
#include "steps/lay_on.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

using Map = std::function<Vec3(const Vec3&)>;
using Limit = std::function<double(const Vec3& at, const Vec3& along)>;

/// The longest edge whose chord, bent to a radius, stays within the tolerance of the arc: sag = length^2 / (8 radius).
double chord_for(double radius, double tolerance_mm) {
    return std::sqrt(8 * std::max(radius, tolerance_mm) * tolerance_mm);
}

int axis_index(const std::string& name) {
    return name == "x" ? 0 : name == "y" ? 1 : 2;
}

/// Where a map has kinks: no facet may run across these places of an axis.
struct Kinks {
    int axis = 0;
    std::vector<double> at;
};

/// Maps the chosen bodies as triangles, parted at the kinks and then finely enough for the limit.
Expected<StepResult> deform(const std::vector<StepBody>& before, const StepContext& context, const Map& map,
                            const Limit& limit, const Kinks& kinks = {}) {
    if (context.growth_mm != 0)
        return problem(ProblemCode::Geometry, "What is bent cannot carry a gap by its numbers.",
                       "Bend it after the fit, or use a body that is not bent as the tool.");
    auto chosen = pick_bodies(before, context.word("what"), "bend");
    if (!chosen) return tl::make_unexpected(chosen.error());
    StepResult result{before, {}, {}};
    for (size_t i : *chosen) {
        auto fine = tessellate(before[i].body, context.number("tolerance") / 2);
        if (!fine) return tl::make_unexpected(fine.error());
        TriMesh parted = fine->mesh;
        for (double place : kinks.at) parted = parted_at(parted, kinks.axis, place);
        auto mesh = refined(parted, limit, context.task);
        if (!mesh) return tl::make_unexpected(mesh.error());
        for (Vec3& v : mesh->vertices) {
            v = map(v);
            if (!v.allFinite())
                return problem(ProblemCode::Geometry, "Part of the body goes through the axis it is bent about.",
                               "Use a smaller angle, or move the axis away.");
        }
        Body body = Body::from_mesh(std::move(*mesh));
        if (!(body.mass().volume_mm3 > 0))
            return problem(ProblemCode::Geometry, "The body is turned inside out by this.",
                           "Use a smaller angle, or move the axis away.");
        result.bodies[i].body = body;
        if (before[i].body.is_exact())
            result.note =
                "The body is faceted from here, within " + format_number(context.number("tolerance"), 3) + " mm.";
    }
    return result;
}

std::vector<StepField> with_common(std::vector<StepField> own) {
    std::vector<StepField> all{{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies by step number or name, or all"}};
    for (StepField& f : own) all.push_back(std::move(f));
    all.push_back({"tolerance", FieldKind::Length, "0.02 mm", 0.001, 1, {}, "how near the facets keep to the curve"});
    return all;
}

const std::vector<std::string> axes{"x", "y", "z"};

} // namespace

StepKind bend_kind() {
    StepKind kind;
    kind.id = "bend";
    kind.title = "Bend";
    kind.purpose = "Bends what lies along an axis into an arc.";
    const double far = tolerance::largest_mm;
    kind.fields = with_common(
        {{"angle", FieldKind::Angle, "90 deg", -3600, 3600, {}, "over the stretch that is bent"},
         {"along", FieldKind::Choice, "x", 0, 0, axes, "the way the body runs"},
         {"towards", FieldKind::Choice, "z", 0, 0, {"x", "y", "z", "-x", "-y", "-z"}, "the side it is bent to"},
         {"from", FieldKind::Length, "0 mm", -far, far, {}, "where the bend begins, along the body"},
         {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends; beyond that it goes on straight"},
         {"neutral", FieldKind::Length, "0 mm", -far, far, {}, "height that keeps its length, towards that side"}});
    kind.sentence = "Bend {what} by {angle} towards {towards}, along {along} from {from} to {to}"
                    "[, keeping the length at {neutral}][, within {tolerance}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        std::string side = context.word("towards");
        double sign = side[0] == '-' ? -1 : 1;
        int w = axis_index(side.substr(side.size() - 1));
        if (u == w)
            return problem(ProblemCode::Range, "A body cannot be bent towards the way it runs.",
                           "Choose another side.");
        double from = context.number("from"), to = context.number("to"), angle = radians(context.number("angle"));
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The bend has no length.", "Let it end beyond where it begins.");
        if (std::fabs(angle) < 1e-9) return StepResult{before, "An angle of 0 bends nothing.", {}};
        if (angle < 0) angle = -angle, sign = -sign;
        double neutral = context.number("neutral") * sign, radius = (to - from) / angle, nothing = std::nan("");
        if (side[0] == '-') neutral = context.number("neutral");
        Map map = [=](const Vec3& p) {
            double along = p[u], height = sign * p[w] - neutral;
            if (along <= from) return p;
            double t = std::min(along, to) - from, a = t / radius, r = radius - height,
                   beyond = std::max(0.0, along - to);
            if (r <= 0) return Vec3(nothing, nothing, nothing);
            Vec3 q = p;
            q[u] = from + r * std::sin(a) + beyond * std::cos(a);
            q[w] = sign * (neutral + radius - r * std::cos(a) + beyond * std::sin(a));
            return q;
        };
        double tolerance_mm = context.number("tolerance");
        Limit limit = [=](const Vec3& at, const Vec3& along) {
            double part = std::fabs(along[u]); // an edge across the bend is not bent
            if (part < 1e-9 || at[u] < from - radius || at[u] > to + radius) return 1e300;
            return chord_for(radius, tolerance_mm) / part;
        };
        return deform(before, context, map, limit, {u, {from, to}});
    };
    return kind;
}

StepKind skew_kind() {
    StepKind kind;
    kind.id = "skew";
    kind.title = "Skew";
    kind.purpose = "Leans a whole body sideways: layers slide over each other, volume stays.";
    const double far = tolerance::largest_mm;
    kind.fields = with_common(
        {{"angle", FieldKind::Angle, "15 deg", -80, 80, {}, "of the lean"},
         {"towards", FieldKind::Choice, "x", 0, 0, axes, "the way it leans"},
         {"along", FieldKind::Choice, "z", 0, 0, axes, "the way the layers are stacked"},
         {"from", FieldKind::Length, "0 mm", -far, far, {}, "the layer that stays"},
         {"over", FieldKind::Length, "0 mm", 0, far, {}, "height of the stretch that leans; 0: all of the body"}});
    kind.sentence = "Skew {what} by {angle} towards {towards}, rising along {along}[, from {from}][, over {over}]"
                    "[, within {tolerance}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along")), w = axis_index(context.word("towards"));
        if (u == w) return problem(ProblemCode::Range, "A body cannot lean the way it is stacked.", "Choose another.");
        double slope = std::tan(radians(context.number("angle"))), from = context.number("from"),
               over = context.number("over");
        Kinks kinks; // of a stretch: what is below stays, what is above goes along
        if (over > 0) kinks = {u, {from, from + over}};
        // Flat facets stay flat: nothing needs to be parted but at the kinks.
        return deform(
            before, context,
            [=](const Vec3& p) {
                Vec3 q = p;
                q[w] += slope * (over > 0 ? std::clamp(p[u] - from, 0.0, over) : p[u] - from);
                return q;
            },
            [](const Vec3&, const Vec3&) { return 1e300; }, kinks);
    };
    return kind;
}

StepKind twist_kind() {
    StepKind kind;
    kind.id = "twist";
    kind.title = "Twist";
    kind.purpose = "Turns a body more and more along an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = with_common({{"angle", FieldKind::Angle, "45 deg", -36000, 36000, {}, "over the stretch"},
                               {"along", FieldKind::Choice, "z", 0, 0, axes, "the axis"},
                               {"from", FieldKind::Length, "0 mm", -far, far, {}, "where it begins"},
                               {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends"},
                               {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                               {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                               {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"}});
    kind.sentence = "Twist {what} by {angle} along {along} from {from} to {to}"
                    "[, about {through_x}, {through_y}, {through_z}][, within {tolerance}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        double from = context.number("from"), to = context.number("to"), angle = radians(context.number("angle"));
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The twist has no length.", "Let it end beyond where it begins.");
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        Vec3 axis = Vec3::Unit(u);
        Map map = [=](const Vec3& p) {
            double t = (std::clamp(p[u], from, to) - from) / (to - from);
            return Vec3(Eigen::AngleAxisd(angle * t, axis) * (p - through) + through);
        };
        double rate = std::fabs(angle) / (to - from), tolerance_mm = context.number("tolerance");
        Limit limit = [=](const Vec3& at, const Vec3& along) {
            Vec3 away = at - through;
            away[u] = 0;
            double turn = rate * std::fabs(along[u]); // radians a millimetre of the edge
            if (turn < 1e-12) return 1e300;
            // A straight edge becomes a curve of curvature up to r turn^2 upright, 2 turn where it runs across as well.
            Vec3 flat = along;
            flat[u] = 0;
            double bent = away.norm() * turn * turn + 2 * turn * flat.norm();
            return chord_for(1 / std::max(bent, 1e-9), tolerance_mm);
        };
        return deform(before, context, map, limit, {u, {from, to}});
    };
    return kind;
}

StepKind taper_kind() {
    StepKind kind;
    kind.id = "taper";
    kind.title = "Taper";
    kind.purpose = "Makes a body evenly narrower or wider along an axis.";
    const double far = tolerance::largest_mm;
    kind.fields = with_common({{"by", FieldKind::Number, "0.5", 0.01, 100, {}, "its width at the end, as a share"},
                               {"along", FieldKind::Choice, "z", 0, 0, axes, "the axis"},
                               {"from", FieldKind::Length, "0 mm", -far, far, {}, "where it begins, full width"},
                               {"to", FieldKind::Length, "10 mm", -far, far, {}, "where it ends"},
                               {"through_x", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                               {"through_y", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"},
                               {"through_z", FieldKind::Length, "0 mm", -far, far, {}, "point on the axis"}});
    kind.sentence = "Taper {what} to {by} along {along} from {from} to {to}"
                    "[, about {through_x}, {through_y}, {through_z}][, within {tolerance}]";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        int u = axis_index(context.word("along"));
        double from = context.number("from"), to = context.number("to"), by = context.number("by");
        if (!(to - from > tolerance::smallest_mm))
            return problem(ProblemCode::Range, "The taper has no length.", "Let it end beyond where it begins.");
        Vec3 through(context.number("through_x"), context.number("through_y"), context.number("through_z"));
        Map map = [=](const Vec3& p) {
            double t = (std::clamp(p[u], from, to) - from) / (to - from), share = 1 + t * (by - 1);
            Vec3 q = through + share * (p - through);
            q[u] = p[u];
            return q;
        };
        double rate = std::fabs(by - 1) / (to - from), tolerance_mm = context.number("tolerance");
        Limit limit = [=](const Vec3& at, const Vec3& along) {
            if ((at[u] < from || at[u] > to) && rate == 0) return 1e300;
            Vec3 flat = along;
            flat[u] = 0;
            double bent = 2 * rate * flat.norm() * std::fabs(along[u]); // only slanting edges curve
            // Edges through the beginning or end of the stretch must not cut its corner.
            double length = chord_for(1 / std::max(bent, 1e-9), tolerance_mm);
            return std::fabs(along[u]) > 1e-9 ? std::min(length, std::max(0.5, (to - from) / 8)) : length;
        };
        return deform(before, context, map, limit, {u, {from, to}});
    };
    return kind;
}

StepKind lie_on_kind() {
    StepKind kind;
    kind.id = "lie_on";
    kind.title = "Lie on";
    kind.purpose = "Lays a flat ornament, drawn on the ground, on a round wall of another body.";
    const double far = tolerance::largest_mm;
    kind.fields = with_common(
        {{"on", FieldKind::Face, "", 0, 0, {}, "a cylinder, cone or surface of revolution"},
         {"angle", FieldKind::Angle, "0 deg", -3600, 3600, {}, "round the axis, where the ornament's origin goes"},
         {"height", FieldKind::Length, "0 mm", -far, far, {}, "along the wall from its lower end"},
         {"sunk", FieldKind::Length, "0 mm", -far, far, {}, "so deep into the wall, for a safe join"},
         {"does",
          FieldKind::Choice,
          "new",
          0,
          0,
          {"new", "join", "cut"},
          "stays a body, is joined to that body, or cut from it"}});
    kind.sentence = "Lay {what} on {on} at {angle}, {height} up[, {sunk} deep][, within {tolerance}], {does}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto wall = round_wall(before, context, context.word("on"));
        if (!wall) return tl::make_unexpected(wall.error());
        double start = radians(context.number("angle")), height = context.number("height"),
               sunk = context.number("sunk");
        double tolerance_mm = context.number("tolerance"), radius = wall->smallest_radius(),
               tightest = wall->tightest_bend();
        auto chosen = pick_bodies(before, context.word("what"), "lay on");
        if (!chosen) return tl::make_unexpected(chosen.error());
        for (size_t i : *chosen)
            if (i == wall->body && context.word("what") != "all")
                return problem(ProblemCode::Wording, "A body cannot lie on itself.", "Name the ornament's body.");
        std::string names; // everything but the wall's own body
        for (size_t i : *chosen)
            if (i != wall->body) names += (names.empty() ? "" : ", ") + std::to_string(before[i].made_by);
        if (names.empty())
            return problem(ProblemCode::Missing, "There is no ornament besides the body it lies on.",
                           "Let the ornament stand as a new body first.");
        StepContext own = context;
        own.words["what"] = names;
        Map map = [&](const Vec3& p) {
            return wall->at(start + p.x() / wall->radius_at(height + p.y()), height + p.y(), p.z() - sunk);
        };
        Limit limit = [=](const Vec3&, const Vec3& along) {
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
        if (!combined) return tl::make_unexpected(combined.error());
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
                 if (!all) return tl::make_unexpected(all.error());
                 return all->body;
             }}};
        return joined;
    };
    return kind;
}

} // namespace lp
