// Full round: a narrow face rounded away between its two neighbours, so that no flat is left.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/arrangement.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

/// The face that is rounded away and the flat walls on both sides of it.
struct Ridge {
    Vec3 along;                      ///< the way it runs
    Vec3 out, out_a, out_b;          ///< outward normals of the face and the walls
    Vec3 at, at_a, at_b;             ///< a place on each
    double from = 0, to = 0;         ///< its ends along the way
    double depth_a = 0, depth_b = 0; ///< how far down the walls reach from the face's edges
};

tl::unexpected<Problem> no_ridge() {
    return problem(ProblemCode::Geometry,
                   "This face does not lie between two straight edges to flat walls: it cannot be rounded away.",
                   "Choose the narrow flat face of a rib or a wall, or fillet its edges.");
}

Expected<Ridge> find_ridge(const Body& body, size_t face) {
    const Tessellation& t = body.tessellation();
    if (t.faces[face].kind != SurfaceKind::Plane) return no_ridge();
    Ridge ridge;
    ridge.out = t.faces[face].direction;
    ridge.at = t.faces[face].centre;
    // The two longest straight edges that run the same way, each towards another flat face.
    struct Side {
        const EdgeInfo* edge;
        size_t wall;
        Vec3 way;
    };
    std::vector<Side> sides;
    for (const EdgeInfo& e : t.edges) {
        if (e.face_a < 0 || e.face_b < 0 || (size_t(e.face_a) != face && size_t(e.face_b) != face)) continue;
        size_t wall = size_t(e.face_a) == face ? size_t(e.face_b) : size_t(e.face_a);
        Vec3 way = e.points.back() - e.points.front();
        if (wall == face || t.faces[wall].kind != SurfaceKind::Plane || std::fabs(way.norm() - e.length_mm) > 1e-6)
            continue;
        sides.push_back({&e, wall, way.normalized()});
    }
    std::sort(sides.begin(), sides.end(),
              [](const Side& a, const Side& b) { return a.edge->length_mm > b.edge->length_mm; });
    const Side *first = nullptr, *second = nullptr;
    for (size_t i = 0; i < sides.size() && !second; ++i)
        for (size_t j = i + 1; j < sides.size() && !second; ++j)
            if (sides[i].wall != sides[j].wall && sides[i].way.cross(sides[j].way).norm() < 1e-6)
                first = &sides[i], second = &sides[j];
    if (!second) return no_ridge();
    ridge.along = first->way;
    ridge.out_a = t.faces[first->wall].direction;
    ridge.out_b = t.faces[second->wall].direction;
    ridge.at_a = first->edge->points.front();
    ridge.at_b = second->edge->points.front();
    ridge.from = 1e300;
    ridge.to = -1e300;
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        for (int k = 0; k < 3; ++k) {
            const Vec3& p = t.mesh.corner(i, k);
            if (t.face_of[i] == face) {
                ridge.from = std::min(ridge.from, p.dot(ridge.along));
                ridge.to = std::max(ridge.to, p.dot(ridge.along));
            }
            if (t.face_of[i] == first->wall) ridge.depth_a = std::max(ridge.depth_a, (ridge.at_a - p).dot(ridge.out));
            if (t.face_of[i] == second->wall) ridge.depth_b = std::max(ridge.depth_b, (ridge.at_b - p).dot(ridge.out));
        }
    return ridge;
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
        auto ridge = find_ridge(body, found->face);
        if (!ridge) return pass_on(ridge);
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
        if (std::fabs(equations.determinant()) < 1e-9) return pass_on(no_ridge().value());
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
