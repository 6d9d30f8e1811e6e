// Ridges, grooves, teeth and flutes over a flat or a round face, and crossed ones: a knurl.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "base/turn_between.h"
#include "mesh/knurl_mesh.h"
#include "shape/exact_solids.h"
#include "steps/edges/face_between_walls.h"
#include "steps/edges/face_border.h"
#include "steps/edges/ridge_profile.h"
#include "steps/find_plane.h"
#include "steps/solids/hole_room.h"
#include "steps/solids/profile_shape.h"
#include "steps/step_kind.h"
#include <algorithm>
#include <numbers>

namespace lp {
namespace {

constexpr double into_wall_mm = 0.05; // faces that coincide are hard on booleans
constexpr double pi = std::numbers::pi;

/// The face with a frame of its own: of a round one z is the axis, of a flat one y looks out and z runs along.
struct RidgedFace {
    const Body* body = nullptr;
    size_t number = 0;
    bool round = false, hollow = false;
    Transform frame = Transform::Identity();
    double radius = 0;
    Eigen::AlignedBox2d span; ///< of a round one: along y from end to end; of a flat one: across x and along y
    double low() const { return span.min().y(); }
    double high() const { return span.max().y(); }
    double length() const { return span.sizes().y(); }
};

struct RidgeWish {
    RidgeProfile profile;
    std::string run;
    bool cut = false;
    double margin = 0, growth = 0;
    TagSource tags;
    const Task* task = nullptr;
    double above() const { return above_face(growth); }
    /// Between ridges the tool lies so far under the face, or over it where it cuts.
    double between() const { return cut ? above() : into_wall_mm; }
    /// The tool's other side over the face.
    double base() const { return cut ? 2 * above() + growth : -2 * into_wall_mm - growth; }
};

Vec3 longest_straight_edge(const Tessellation& t, size_t face) {
    double longest = 0;
    Vec3 way = t.faces[face].direction.unitOrthogonal();
    for (const EdgeInfo& edge : t.edges) {
        if (edge.face_a != int(face) && edge.face_b != int(face)) continue;
        const Vec3 d = edge.points.back() - edge.points.front();
        if (d.norm() > longest + 1e-6 && std::fabs(d.norm() - edge.length_mm) < 1e-3) {
            longest = d.norm();
            way = d.normalized();
        }
    }
    return way;
}

Expected<RidgedFace> ridged_face(const Body& body, size_t number) {
    const Tessellation& t = body.tessellation();
    const FaceInfo& info = t.faces[number];
    RidgedFace face;
    face.body = &body;
    face.number = number;
    if (info.kind == SurfaceKind::Cylinder) {
        face.round = true;
        face.hollow = is_hollow(t, number);
        face.radius = info.radius_mm;
        face.frame = frame_along(info.direction.normalized());
        face.frame.translation() = info.axis_point;
    } else if (info.kind == SurfaceKind::Plane) {
        const Vec3 along = longest_straight_edge(t, number), out = info.direction.normalized();
        face.frame.linear() << out.cross(along), out, along;
        face.frame.translation() = info.centre;
    } else {
        return problem(ProblemCode::Geometry, "Ridges run over flat and round faces; this one is neither.",
                       "Choose the side of a cylinder, or a flat face.");
    }
    const Transform back = face.frame.inverse();
    for (size_t i = 0; i < t.mesh.triangles.size(); ++i)
        if (t.face_of[i] == number)
            for (int k = 0; k < 3; ++k) {
                const Vec3 p = back * t.mesh.corner(i, k);
                face.span.extend(Vec2(p.x(), p.z()));
            }
    return face;
}

/// A body that is remade larger for a fit came grown: the ridges stand on the face as it is drawn, which lies so far
/// inside, and grow from there. On the larger face there would be others of them.
void put_back(RidgedFace& face, double growth) {
    const Vec2 ends = face.round ? Vec2(0, growth) : Vec2(growth, growth);
    face.span.min() += ends;
    face.span.max() -= ends;
    if (face.round)
        face.radius -= face.hollow ? -growth : growth;
    else
        face.frame.translation() -= face.frame.linear().col(1) * growth;
}

Expected<Body> extruded(const std::vector<Vec2>& polygon, double low, double high, const Transform& frame,
                        const TagSource& tags) {
    std::vector<Curve> curves;
    for (size_t i = 0; i < polygon.size(); ++i)
        curves.push_back(Curve::line(polygon[i], polygon[(i + 1) % polygon.size()]));
    auto region = region_of(curves);
    if (!region) return pass_on(region);
    return raised_body(*region, low, high, 0, frame, tags);
}

Expected<Body> one_of(Operation operation, const Body& a, const Body& b, const RidgeWish& wish) {
    auto made = combine(operation, a, {b}, *wish.task);
    if (!made) return pass_on(made);
    return made->body;
}

/// Signed: outward ridges stand away from the axis, inward ones towards it; cut in they go the other way.
double radius_at(const RidgedFace& face, const RidgeWish& wish, double height) {
    const double out = (wish.cut ? -height : height) * (face.hollow ? -1 : 1);
    return face.radius + out;
}

/// Raised ridges that run along an axis end in slopes, so that their lower ends print.
Expected<Body> sloped_ends(const RidgedFace& face, const RidgeWish& wish, const Body& tool, double low, double high) {
    if (wish.cut) return tool;
    const double flank = std::min(wish.profile.high / std::tan(radians(wish.profile.slope_deg)), (high - low) / 2),
                 g = wish.growth, base = face.radius, crest = radius_at(face, wish, wish.profile.high),
                 core = face.hollow ? face.radius * 1.5 + 1 : 0;
    const std::vector<Vec2> form{{core, low},           {base, low},  {crest, low + flank},
                                 {crest, high - flank}, {base, high}, {core, high}};
    std::vector<Curve> curves;
    for (size_t i = 0; i < form.size(); ++i) curves.push_back(Curve::line(form[i], form[(i + 1) % form.size()]));
    auto barrel = turned_profile(curves, g, face.frame, {wish.tags.step, wish.tags.copy ^ (1ull << 41)});
    if (!barrel) return pass_on(barrel);
    return one_of(Operation::Common, tool, *barrel, wish);
}

Expected<Body> along_round(const RidgedFace& face, const RidgeWish& wish) {
    const int count = std::max(3, int(std::lround(2 * pi * face.radius / wish.profile.apart)));
    RidgeProfile profile = wish.profile;
    profile.apart = 2 * pi * face.radius / count;
    std::vector<Vec2> star;
    const auto period = ridge_period(profile, wish.between());
    const double chord = std::sqrt(8 * face.radius * into_wall_mm / 4); // chords of the stretches between stay near
    for (int i = 0; i < count; ++i)
        for (size_t k = 0; k + 1 < period.size(); ++k) { // its end is where the next begins
            const Vec2 way = period[k + 1] - period[k];
            const int pieces = way.y() == 0 ? std::max(1, int(std::ceil(way.x() / chord))) : 1;
            for (int j = 0; j < pieces; ++j) {
                const Vec2 p = period[k] + way * (double(j) / pieces);
                const double angle = (i + 0.5) * 2 * pi / count + p.x() / face.radius;
                star.push_back(radius_at(face, wish, p.y()) * Vec2(std::cos(angle), std::sin(angle)));
            }
        }
    star = offset_polygon(star, face.hollow ? -wish.growth : wish.growth);
    if (star.empty()) return problem(ProblemCode::Range, "Of these ridges nothing is left.", "Make them lower.");
    const double low = face.low() + wish.margin - wish.growth, high = face.high() - wish.margin + wish.growth;
    auto prism = extruded(star, low, high, face.frame, wish.tags);
    if (!prism) return prism;
    Transform foot = face.frame;
    foot.translate(Vec3(0, 0, low - 1));
    const double beyond = wish.cut ? 0.7 * wish.between() : -2 * into_wall_mm;
    auto core = make_cylinder(face.radius + (face.hollow ? -beyond : beyond), high - low + 2, foot,
                              {wish.tags.step, wish.tags.copy ^ (1ull << 40)});
    if (!core) return core;
    const bool star_outside = wish.cut == face.hollow;
    auto tool =
        star_outside ? one_of(Operation::Cut, *prism, *core, wish) : one_of(Operation::Cut, *core, *prism, wish);
    if (!tool) return tool;
    if (!star_outside) { // the core reaches past its ends
        Transform within = face.frame;
        within.translate(Vec3(0, 0, low));
        auto slice = make_cylinder(face.radius * 2 + wish.profile.high + 1, high - low, within, wish.tags);
        if (!slice) return slice;
        tool = one_of(Operation::Common, *tool, *slice, wish);
        if (!tool) return tool;
    }
    return sloped_ends(face, wish, *tool, face.low() + wish.margin, face.high() - wish.margin);
}

/// A comb of whole periods: from `low` on, as many as go into the length, in the middle of it.
std::vector<Vec2> comb(const RidgeWish& wish, double low, double length) {
    const RidgeProfile& profile = wish.profile;
    const int count = int(std::floor(length / profile.apart + 1e-6));
    std::vector<Vec2> line;
    const auto period = ridge_period(profile, wish.between());
    const double from = low + (length - count * profile.apart) / 2;
    for (int i = 0; i < count; ++i)
        for (size_t k = i == 0 ? 0 : 1; k < period.size(); ++k)
            line.push_back({from + (i + 0.5) * profile.apart + period[k].x(), (wish.cut ? -1 : 1) * period[k].y()});
    if (line.empty()) return {};
    line.push_back({line.back().x(), wish.base()});
    line.push_back({line.front().x(), wish.base()});
    if (!wish.cut) std::reverse(line.begin(), line.end()); // counter-clockwise
    return line;
}

Expected<Body> across_round(const RidgedFace& face, const RidgeWish& wish) {
    const auto line = comb(wish, face.low() + wish.margin, face.length() - 2 * wish.margin);
    if (line.empty())
        return problem(ProblemCode::Range, "Not one ridge goes onto that face.",
                       "Put them closer, or narrow the margin.");
    std::vector<Curve> curves;
    for (size_t i = 0; i < line.size(); ++i) {
        auto turned = [&](const Vec2& p) { return Vec2(face.radius + (face.hollow ? -p.y() : p.y()), p.x()); };
        curves.push_back(Curve::line(turned(line[i]), turned(line[(i + 1) % line.size()])));
    }
    if (radius_at(face, wish, wish.profile.high) <= 0)
        return problem(ProblemCode::Range, "The ridges would meet at the axis.", "Make them lower.");
    return turned_profile(curves, wish.cut ? -wish.growth : wish.growth, face.frame, wish.tags);
}

/// What of a tool lies over a flat face, a margin inside its border; raised ones end in slopes.
Expected<Body> within_border(const RidgedFace& face, const RidgeWish& wish, const Body& tool) {
    Transform up = face.frame; // raised_body goes up its z: the face's y
    up.linear() << face.frame.linear().col(2), face.frame.linear().col(0), face.frame.linear().col(1);
    // The border is the grown face's: it lies as far out as what is inside it grows.
    auto border = border_of_face(face.body->tessellation(), face.number, up, wish.margin);
    if (!border) return pass_on(border);
    const double base = 1.5 * wish.base(), top = wish.cut ? base : wish.profile.high + 2 * wish.growth + 0.1,
                 bottom = wish.cut ? -wish.profile.high - 0.1 : base;
    auto room = raised_body(*border, bottom, top, wish.cut ? 0 : 90 - wish.profile.slope_deg, up,
                            {wish.tags.step, wish.tags.copy ^ (1ull << 40)});
    if (!room) return room;
    return one_of(Operation::Common, tool, *room, wish);
}

Expected<Body> over_flat(const RidgedFace& face, const RidgeWish& wish) {
    RidgedFace turned = face;
    if (wish.run == "across") { // x runs along the longest edge
        Eigen::Matrix3d axes;
        axes << face.frame.linear().col(2), face.frame.linear().col(1), -face.frame.linear().col(0);
        turned.frame.linear() = axes;
        turned.span = Eigen::AlignedBox2d(Vec2(face.span.min().y(), -face.span.max().x()),
                                          Vec2(face.span.max().y(), -face.span.min().x()));
    }
    auto line = comb(wish, turned.span.min().x() + wish.margin, turned.span.sizes().x() - 2 * wish.margin);
    line = offset_polygon(line, wish.cut ? -wish.growth : wish.growth);
    if (line.empty())
        return problem(ProblemCode::Range, "Not one ridge goes onto that face.",
                       "Put them closer, or narrow the margin.");
    auto tool = extruded(line, turned.low(), turned.high(), turned.frame, wish.tags);
    if (!tool) return tool;
    return within_border(face, wish, *tool);
}

Expected<Body> crossed(const RidgedFace& face, const RidgeWish& wish) {
    KnurlShape knurl;
    knurl.round = face.round;
    knurl.hollow = face.hollow;
    knurl.radius_mm = face.radius;
    knurl.low = Vec2(face.span.min().x(), face.low()) + Vec2::Constant(wish.margin);
    knurl.high = Vec2(face.span.max().x(), face.high()) - Vec2::Constant(wish.margin);
    knurl.apart_mm = wish.profile.apart;
    knurl.high_mm = wish.profile.high;
    knurl.slope_deg = wish.profile.slope_deg;
    knurl.cut = wish.cut;
    knurl.base_mm = wish.cut ? wish.above() : into_wall_mm;
    knurl.growth_mm = wish.growth;
    auto mesh = knurl_mesh(knurl);
    if (!mesh) return pass_on(mesh);
    TriMesh placed = transformed(*mesh, face.frame);
    placed.tags.assign(placed.triangles.size(), intern_tag({wish.tags.step, FaceRole::Side, 0, wish.tags.copy, 0}));
    const Body tool = Body::from_mesh(std::move(placed));
    return face.round ? tool : within_border(face, wish, tool);
}

Expected<StepResult> make_ridges(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.word("face").empty())
        return problem(ProblemCode::Missing, "It is not said which face the ridges run over.",
                       "Choose it in the view.");
    auto found = find_face(before, context, context.value("face"), false);
    if (!found) return pass_on(found);
    const Body& body = before[found->body].body;
    auto face = ridged_face(body, found->face);
    if (!face) return pass_on(face);
    put_back(*face, context.growth_mm);
    RidgeWish wish;
    const std::string& shape = context.word("shape");
    wish.profile = {shape == "round"  ? RidgeShape::Round
                    : shape == "flat" ? RidgeShape::Flat
                                      : RidgeShape::Pointed,
                    context.number("apart"), context.number("high"), context.number("slope")};
    wish.run = context.word("run");
    wish.cut = context.word("does") == "cut in";
    wish.margin = context.number("margin");
    wish.growth = context.growth_mm;
    wish.tags = context.source();
    wish.task = &context.task;
    if (2 * wish.margin >= face->length() - tolerance::smallest_mm)
        return problem(ProblemCode::Range, "Between its margins nothing is left of the face.",
                       "Make the margin narrower.");
    auto tool = wish.run == "crossed" ? crossed(*face, wish)
                : !face->round        ? over_flat(*face, wish)
                : wish.run == "along" ? along_round(*face, wish)
                                      : across_round(*face, wish);
    if (!tool) return pass_on(tool);
    const Operation operation = wish.cut ? Operation::Cut : Operation::Join;
    const double volume = body.mass().volume_mm3;
    auto made = combine(operation, body, {*tool}, context.task);
    if (!made) return pass_on(made);
    if (std::fabs(made->body.mass().volume_mm3 - volume) < tolerance::overlap_mm3)
        return problem(ProblemCode::Geometry, "The ridges change nothing there.", "Make them higher.");
    StepResult result{before, made->note, {}};
    result.bodies[found->body].body = made->body;
    result.tools.push_back({operation, [tool = *tool]() -> Expected<Body> { return tool; }});
    const double foot = wish.profile.foot();
    if (result.note.empty() && foot > wish.profile.apart + tolerance::same_mm &&
        wish.profile.shape != RidgeShape::Round)
        result.note = "They run into each other: with these slopes each is " +
                      format_quantity(foot, QuantityKind::Length, 2) + " wide at its foot.";
    return result;
}

} // namespace

StepKind ridges_kind() {
    StepKind kind;
    kind.id = "ridges";
    kind.title = "Ridges";
    kind.purpose = "Ridges, grooves, teeth or flutes over a flat or round face; crossed ones are a knurl. Their slopes "
                   "and ends print without support.";
    kind.fields = {
        StepField{"face", FieldKind::Face, "", 0, 0, {}, "the side of a cylinder, inside or outside, or a flat face"}
            .filled_by(Filler::NextFace),
        {"run",
         FieldKind::Choice,
         "along",
         0,
         0,
         {"along", "across", "crossed"},
         "along the axis or the longest edge; across: rings round it; crossed: a knurl of small pyramids"},
        {"shape", FieldKind::Choice, "pointed", 0, 0, {"pointed", "flat", "round"}, "of each, seen from its end"},
        {"apart",
         FieldKind::Length,
         "3 mm",
         0.2,
         1000,
         {},
         "from crest to crest; round a cylinder a whole number goes"},
        {"high", FieldKind::Length, "1 mm", 0.05, 200, {}, "over the face, or how deep they are cut in"},
        {"slope", FieldKind::Angle, "45 deg", 15, 85, {}, "of flanks and ends, from the face"},
        {"margin", FieldKind::Length, "1 mm", 0, 1000, {}, "left free at the ends"},
        {"does", FieldKind::Choice, "raised", 0, 0, {"raised", "cut in"}, "plastic is added or taken away"}};
    kind.sentence =
        "Ridges {run} {face}, {shape}, {high} high, {apart} apart, {does}[, slopes of {slope}][, {margin} free "
        "at the ends]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"knurl", "flute", "groove", "teeth", "grip", "serration", "spline", "rack", "pattern"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Face,
                    .place = 95,
                    .words = "Ridges on it",
                    .hint = "A grip, flutes, teeth or a knurl, with slopes that print",
                    .folded = true}};
    kind.evaluate = make_ridges;
    return kind;
}

} // namespace lp
