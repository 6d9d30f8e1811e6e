// Full round: a narrow face rounded away between its two neighbours, so that no flat is left.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/arrangement.h"
#include "steps/edges/face_between_walls.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

tl::unexpected<Problem> no_ridge() {
    return problem(ProblemCode::Geometry,
                   "This face does not lie between two straight edges to flat walls: it cannot be rounded away.",
                   "Choose the narrow flat face of a rib or a wall, or fillet its edges.");
}

} // namespace

StepKind full_round_kind() {
    StepKind kind;
    kind.id = "full_round";
    kind.title = "Full round";
    kind.purpose = "Rounds a narrow flat face away, from one wall to the other.";
    kind.fields = {StepField{"face", FieldKind::Face, "", 0, 0, {}, "the narrow face, the top of a rib"}.filled_by(
        Filler::NextFace)};
    kind.sentence = "Round {face} fully";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"round", "over"};
    kind.offers = {{.when = Chosen::Face, .place = 20, .folded = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (context.word("face").empty())
            return problem(ProblemCode::Missing, "It is not said which face is rounded away.",
                           "Choose it in the view.");
        auto found = find_face(before, context, context.value("face"), false);
        if (!found) return pass_on(found);
        const Body& body = before[found->body].body;
        const auto ridge = face_between_walls(body, found->face, false);
        if (!ridge) return no_ridge();
        // Across the ridge: y out of the face, x from wall to wall. The circle that touches all three.
        Transform frame = Transform::Identity();
        Vec3 y = ridge->out, z = ridge->along, x = y.cross(z);
        frame.linear() << x, y, z;
        frame.translation() = ridge->at + (ridge->from - ridge->at.dot(z)) * z;
        auto flat = [&](const Vec3& n) { return Vec2(n.dot(x), n.dot(y)); };
        auto place = [&](const Vec3& p) { return flat(p - frame.translation()); };
        Eigen::Matrix3d equations;
        Vec3 known;
        const Vec2 normals[3] = {flat(ridge->out), flat(ridge->out_a).normalized(), flat(ridge->out_b).normalized()};
        const Vec2 places[3] = {place(ridge->at), place(ridge->at_a), place(ridge->at_b)};
        for (int k = 0; k < 3; ++k) { // distance of the centre inside each plane is the radius
            equations.row(k) << normals[k].x(), normals[k].y(), 1;
            known[k] = normals[k].dot(places[k]);
        }
        if (std::fabs(equations.determinant()) < 1e-9) return no_ridge();
        Vec3 solved = equations.inverse() * known;
        Vec2 centre(solved.x(), solved.y());
        double radius = solved.z();
        Vec2 touch_a = centre + radius * normals[1], touch_b = centre + radius * normals[2];
        if (!(radius > tolerance::smallest_mm) || -touch_a.y() > ridge->depth_a + 1e-6 ||
            -touch_b.y() > ridge->depth_b + 1e-6)
            return problem(ProblemCode::Geometry,
                           "The round would be " + format_number(std::max(radius, 0.0)) +
                               " mm and reach below the walls beside the face.",
                           "Make the walls higher or the face narrower, or fillet its edges.");
        // What goes: between the circle and the walls, and a little above the face.
        double above = radius / 8;
        auto on_wall = [&](const Vec2& touch, const Vec2& normal) { // where the wall's line is that high
            Vec2 up(-normal.y(), normal.x());
            if (up.y() < 0) up = -up;
            return Vec2(touch + (above - touch.y()) / up.y() * up);
        };
        Vec2 high_a = on_wall(touch_a, normals[1]), high_b = on_wall(touch_b, normals[2]);
        bool ccw = touch_a.x() > touch_b.x(); // over the top
        std::vector<SourcedCurve> curves{{Curve::arc_between(centre, touch_a, touch_b, ccw), 1},
                                         {Curve::line(touch_b, high_b), 2},
                                         {Curve::line(high_b, high_a), 3},
                                         {Curve::line(high_a, touch_a), 4}};
        auto regions = arrange(curves);
        if (!regions) return pass_on(regions);
        auto tool = raised_body(regions->regions, 0, ridge->to - ridge->from, 0, frame, context.source());
        if (!tool) return pass_on(tool);
        auto cut = combine(Operation::Cut, body, {*tool}, context.task);
        if (!cut) return pass_on(cut);
        StepResult result{before, cut->note, {}};
        result.bodies[found->body].body = cut->body;
        return result;
    };
    return kind;
}

} // namespace lp
