// Pointed roof: a flat roof, or the top of a lying round hole, cut to slopes that print without support.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "outline/arrangement.h"
#include "steps/edges/face_between_walls.h"
#include "steps/find_plane.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

/// What is cut away, drawn across the roof: x to the side, y up, z along it.
struct RoofProfile {
    Transform frame = Transform::Identity();
    double length = 0;
    std::vector<Vec2> corners; ///< counter-clockwise
};

/// Of a profile that is the same on both sides: the right one from below to the top, the last on the axis or mirrored.
std::vector<Vec2> both_sides(const std::vector<Vec2>& right) {
    std::vector<Vec2> all = right;
    for (size_t i = right.size(); i-- > 0;)
        if (right[i].x() > 0) all.push_back({-right[i].x(), right[i].y()});
    return all;
}

Vec3 up_of(const std::string& word) {
    Vec3 up = Vec3::Zero();
    up[int(std::string("xyz").find(word.back()))] = word.front() == '-' ? -1 : 1;
    return up;
}

/// Slopes from the edges of the roof to a ridge over its middle. Remade larger by a gap the slopes move by that gap
/// only: they begin a little above the edges.
Expected<RoofProfile> over_flat(const FaceBetweenWalls& roof, double slope, bool pointed, double growth) {
    RoofProfile profile;
    const Vec3 up = -roof.out, along = roof.along, side = up.cross(along);
    const double a = roof.at_a.dot(side), b = roof.at_b.dot(side), half = std::fabs(a - b) / 2;
    const double begins = growth - growth * (1 - std::cos(slope)) / std::sin(slope);
    if (!(half > tolerance::smallest_mm) || begins < 0)
        return problem(ProblemCode::Geometry, "This roof is too narrow to be pointed.", "Choose a wider one.");
    profile.frame.linear() << side, up, along;
    profile.frame.translation() = (a + b) / 2 * side + roof.at.dot(up) * up + roof.from * along;
    profile.length = roof.to - roof.from;
    const double ridge = begins + half / std::tan(slope), below = std::min(half / 4, 0.5);
    std::vector<Vec2> right{{half * 0.9, -below}, {half, 0}};
    if (begins > tolerance::same_mm) right.push_back({half, begins});
    if (pointed) {
        right.push_back({0, ridge});
    } else { // a third of the width stays flat
        const double flat = half / 3;
        right.push_back({flat, ridge - flat / std::tan(slope)});
    }
    profile.corners = both_sides(right);
    return profile;
}

/// Tangents to the round wall meet above it. They begin a hair inside it, so that they cross the wall instead of
/// touching it, and are steeper by as much as that takes.
Expected<RoofProfile> over_round(const Body& body, size_t face, const Vec3& wanted_up, double slope, bool pointed) {
    const Tessellation& t = body.tessellation();
    const FaceInfo& info = t.faces[face];
    const Vec3 along = info.direction.normalized();
    const Vec3 up = wanted_up - wanted_up.dot(along) * along;
    if (up.norm() < std::cos(radians(30.0)))
        return problem(ProblemCode::Geometry, "This hole does not lie: it runs up.",
                       "Choose another way up, or the roof of a hole that lies.");
    RoofProfile profile;
    profile.frame.linear() << up.normalized().cross(along), up.normalized(), along;
    double from = 1e300, to = -1e300;
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i) {
        if (t.face_of[i] != face) continue;
        for (int k = 0; k < 3; ++k) {
            from = std::min(from, t.mesh.corner(i, k).dot(along));
            to = std::max(to, t.mesh.corner(i, k).dot(along));
        }
    }
    if (!is_hollow(t, face))
        return problem(ProblemCode::Geometry, "This is the outside of a round: it has no roof.",
                       "Choose the wall of a hole.");
    profile.frame.translation() = info.axis_point + (from - info.axis_point.dot(along)) * along;
    profile.length = to - from;
    const double hair = radians(2.0), steeper = slope - hair, r = info.radius_mm * std::cos(hair);
    const double top = r / std::sin(steeper);
    std::vector<Vec2> right{{0.3 * r * std::cos(steeper), 0.3 * r * std::sin(steeper)},
                            {r * std::cos(steeper), r * std::sin(steeper)}};
    if (pointed) {
        right.push_back({0, top});
    } else {
        const double flat_at = info.radius_mm * 1.02;
        right.push_back({(top - flat_at) * std::tan(steeper), flat_at});
    }
    profile.corners = both_sides(right);
    return profile;
}

Expected<StepResult> make_roof(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.word("face").empty())
        return problem(ProblemCode::Missing, "It is not said which roof is cut.", "Choose it in the view.");
    auto found = find_face(before, context, context.value("face"), false);
    if (!found) return pass_on(found);
    const Body& body = before[found->body].body;
    const SurfaceKind surface = body.tessellation().faces[found->face].kind;
    const double slope = radians(context.number("slope"));
    const bool pointed = context.word("form") == "pointed";
    Expected<RoofProfile> profile = problem(
        ProblemCode::Geometry, "This face is neither a flat roof between two flat walls nor the wall of a round hole.",
        "Choose the roof of a slot, or the inside of a round hole that lies.");
    if (surface == SurfaceKind::Cylinder) {
        profile = over_round(body, found->face, up_of(context.word("up")), slope, pointed);
    } else if (surface == SurfaceKind::Plane) {
        if (const auto roof = face_between_walls(body, found->face, true))
            profile = over_flat(*roof, slope, pointed, context.growth_mm);
    }
    if (!profile) return pass_on(profile);
    std::vector<SourcedCurve> border;
    const auto& corners = profile->corners;
    for (size_t k = 0; k < corners.size(); ++k)
        border.push_back({Curve::line(corners[k], corners[(k + 1) % corners.size()]), k + 1});
    auto drawn = arrange(border);
    if (!drawn) return pass_on(drawn);
    auto tool = raised_body(drawn->regions, 0, profile->length, 0, profile->frame, context.source());
    if (!tool) return pass_on(tool);
    const double volume = body.mass().volume_mm3;
    auto cut = combine(Operation::Cut, body, {*tool}, context.task);
    if (!cut) return pass_on(cut);
    if (volume - cut->body.mass().volume_mm3 < tolerance::overlap_mm3)
        return problem(ProblemCode::Geometry, "There is nothing above this roof to cut away.",
                       "Choose a face that has material over it.");
    StepResult result{before, cut->note, {}};
    result.bodies[found->body].body = cut->body;
    result.tools.push_back({Operation::Cut, [tool = *tool]() -> Expected<Body> { return tool; }});
    return result;
}

} // namespace

StepKind pointed_roof_kind() {
    StepKind kind;
    kind.id = "pointed_roof";
    kind.title = "Pointed roof";
    kind.purpose = "Cuts a flat roof, or the top of a lying round hole, to slopes that print without support.";
    kind.fields = {
        StepField{"face", FieldKind::Face, "", 0, 0, {}, "the roof of a slot, or the wall of a lying hole"}.filled_by(
            Filler::NextFace),
        {"form", FieldKind::Choice, "pointed", 0, 0, {"pointed", "cut flat"}, "to a ridge, or flat below it"},
        {"slope", FieldKind::Angle, "45 deg", 15, 75, {}, "of its sides, from upright"},
        {"up",
         FieldKind::Choice,
         "z",
         0,
         0,
         {"z", "-z", "x", "-x", "y", "-y"},
         "which way is up in the print, for a round hole; a flat roof tells it by itself"}};
    kind.sentence = "Roof of {face} {form}, {slope} from upright[, up is {up}]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"bridge", "sag", "overhang", "drop", "ceiling"};
    kind.takes_away = true;
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Face, .place = 90, .folded = true}};
    kind.evaluate = make_roof;
    return kind;
}

} // namespace lp
