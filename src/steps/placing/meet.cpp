// Point to point: a body moved until a point of it lies where another point is.
#include "base/quantity.h"
#include "base/text.h"
#include "base/tolerance.h"
#include "steps/find_edges.h"
#include "steps/find_plane.h"
#include "steps/step_bodies.h"

namespace lp {
namespace {

struct FoundPoint {
    std::optional<size_t> body; ///< none: a place typed as numbers
    Vec3 at = Vec3::Zero();
};

/// Centre of the circle through three points of a closed or arched edge; nothing for a straight one.
std::optional<Vec3> centre_of(const EdgeInfo& edge) {
    const auto& p = edge.points;
    if (p.size() < 5) return std::nullopt;
    Vec3 a = p[0], u = p[p.size() / 3] - a, v = p[2 * p.size() / 3] - a, n = u.cross(v);
    if (n.norm() < 1e-9 * u.norm() * v.norm()) return std::nullopt;
    Vec3 centre = a + (n.cross(u) * v.squaredNorm() + v.cross(n) * u.squaredNorm()) / (2 * n.squaredNorm());
    double radius = (centre - a).norm();
    for (const Vec3& q : p)
        if (std::fabs((q - centre).norm() - radius) > 1e-4 * radius) return std::nullopt;
    return centre;
}

/// A picked edge gives the middle of its circle, or the end or middle that was picked nearest to; a face its middle; or
/// three lengths by commas.
Expected<FoundPoint> find_point(const std::vector<StepBody>& before, const StepContext& context,
                                const FieldValue& value) {
    const std::string& text = value.text();
    if (text.empty())
        return problem(ProblemCode::Missing, "It is not said which points come together.",
                       "Choose an edge or face in the view, or write 10, 0, 5 mm.");
    const auto& items = value.geometry();
    if (const EdgeReference* reference = items.size() == 1 ? items[0].edge() : nullptr) {
        auto edges = edges_of_item(before, context, items[0]);
        if (!edges) return pass_on(edges);
        const Body& body = before[edges->body].body;
        const EdgeInfo& edge = body.tessellation().edges[edges->edges.front()];
        FoundPoint found{edges->body, edge.points.front()};
        if (auto centre = centre_of(edge)) {
            found.at = *centre;
            return found;
        }
        Vec3 picked = place_of(body, in_copy(reference->a, context.copy));
        Vec3 middle = (edge.points.front() + edge.points.back()) / 2;
        for (const Vec3& p : {middle, edge.points.back()})
            if ((p - picked).norm() < (found.at - picked).norm()) found.at = p;
        return found;
    }
    auto numbers = listed(text, ',');
    if (numbers.size() == 3) {
        FoundPoint found;
        bool all = true;
        for (int k = 0; k < 3; ++k) {
            auto value = evaluate_expression(numbers[size_t(k)], QuantityKind::Length, context.parameters);
            if (!value)
                all = false;
            else
                found.at[k] = *value;
        }
        if (all) return found;
    }
    auto face = find_face(before, context, value, true);
    if (!face) return pass_on(face);
    return FoundPoint{face->body, before[face->body].body.tessellation().faces[face->face].centre};
}

} // namespace

StepKind meet_kind() {
    StepKind kind;
    kind.id = "meet";
    kind.title = "Point to point";
    kind.purpose = "Moves a body until one of its points lies on a point of another, or at a place.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"point", FieldKind::Edges, "", 0, 0, {}, "an edge (its middle, end or circle's centre) or a face"}
            .filled_by(Filler::FirstThing),
        StepField{"goal", FieldKind::Edges, "", 0, 0, {}, "the same of the body that stays, or x, y, z"}.filled_by(
            Filler::SecondThing),
        {"off_x", FieldKind::Length, "0 mm", -far, far, {}, "beside it"},
        {"off_y", FieldKind::Length, "0 mm", -far, far, {}, "beside it"},
        {"off_z", FieldKind::Length, "0 mm", -far, far, {}, "above it"}};
    kind.sentence = "Bring {point} to {goal}[, off by {off_x}, {off_y}, {off_z}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"snap", "point"};
    kind.offers = {{.when = Chosen::TwoThings, .place = 30}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto point = find_point(before, context, context.value("point"));
        if (!point) return pass_on(point);
        if (!point->body)
            return problem(ProblemCode::Wording, "The first point must be of a body.", "Choose its edge or face.");
        StepResult result{before, {}, {}};
        Transform move = Transform::Identity();
        if (context.nominal) {
            move = context.nominal->plane;
        } else {
            auto goal = find_point(before, context, context.value("goal"));
            if (!goal) return pass_on(goal);
            if (goal->body == point->body)
                return problem(ProblemCode::Geometry, "Both points belong to one body.",
                               "Choose points of two bodies; a solid stands alone when it \"does\" new.");
            move.translate(goal->at - point->at +
                           Vec3(context.number("off_x"), context.number("off_y"), context.number("off_z")));
        }
        auto body = moved_with_halos(before[*point->body], move);
        if (!body) return pass_on(body);
        result.bodies[*point->body] = *body;
        result.place = StepPlace{move, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
