// A web thin enough to fold, cut into a plate from a face: its strain by the angle it is folded through.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/distance_field.h"
#include "shape/mesh_distance.h"
#include "steps/find_plane.h"
#include "steps/fits/bending_beam.h"
#include "steps/fits/joint_parts.h"

namespace lp {
namespace {

/// How thick the body is below the face, along the fold: the least and the most, measured from a hair beside it.
struct Thickness {
    double least = 1e300, most = 0;
};

/// `at`: x along the fold, z out of the face. Rays go down all along the fold; where they meet nothing there is none.
Thickness thickness_below(const Body& body, const Transform& at, double reach) {
    Thickness found;
    const DistanceTree tree(body.mesh());
    if (tree.empty()) return found;
    const Vec3 down = -at.linear().col(2);
    constexpr int places = 400;
    const double hair = 0.01;
    for (int k = 0; k <= places; ++k) {
        const Vec3 top = at * Vec3(reach * (2.0 * k / places - 1), 0, -hair);
        if (!tree.inside(top)) continue;
        const ClosestPoint out = tree.first_hit(top, down);
        if (out.triangle == ~0u) continue;
        const double thick = (out.point - top).norm() + hair;
        found.least = std::min(found.least, thick);
        found.most = std::max(found.most, thick);
    }
    return found;
}

Expected<Transform> fold_place(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.nominal) return context.nominal->plane;
    auto at = find_plane(before, context, context.value("on"));
    if (!at) return at;
    at->translate(Vec3(context.number("at_x"), context.number("at_y"), 0));
    at->rotate(Eigen::AngleAxisd(radians(context.number("turn")), Vec3::UnitZ()));
    return at;
}

/// The strain of the web and whether its sides meet before it is folded.
std::string folding_words(const StepContext& context, double deep, StepResult& result) {
    const double web = context.number("web"), length = context.number("length"),
                 angle = radians(context.number("folds"));
    const bool shut = context.word("way") == "shut";
    std::string says = "Folded by " + format_number(context.number("folds"), 0) + "° its web is " +
                       strain_words(context, 100 * web_strain(web, length, angle), "it breaks");
    const double for_strain = web * angle / (2 * context.strain_percent / 100), for_sides = shut ? deep * angle : 0,
                 longer = std::ceil(std::max(for_strain, for_sides) * 10 - 1e-6) / 10;
    // Bent to a circle the web's middle is `length / angle` from its centre, where its upright sides would meet.
    if (length < for_sides - 1e-9) says += "; the sides of the cut meet before it is shut";
    if (length < std::max(for_strain, for_sides) - 1e-9)
        result.cure = FieldCure{"length", in_mm(longer), "Make it " + in_mm(longer) + " long"};
    return says + ". Print it flat, the web on the bed.";
}

Expected<StepResult> make_hinge(const std::vector<StepBody>& before, const StepContext& context) {
    if (before.empty())
        return problem(ProblemCode::Missing, "There is no body yet to fold.", "Put a plate before this step.");
    auto face = find_face(before, context, context.value("on"), true);
    auto at = fold_place(before, context);
    if (!at) return pass_on(at);
    const size_t owner = face ? face->body : 0;
    const Body& body = before[owner].body;
    const double g = context.growth_mm, web = context.number("web"), length = context.number("length");
    const double reach = body.box().diagonal().norm() + body.box().center().norm() + at->translation().norm() + 1;
    double deep = 0;
    if (context.nominal && context.nominal->span_mm) {
        deep = context.nominal->span_mm->second;
    } else {
        const Thickness thick = thickness_below(body, *at, reach);
        if (thick.most <= 0)
            return problem(ProblemCode::Geometry, "There is nothing below the face where it is to fold.",
                           "Move the fold over the plate.");
        if (thick.most - thick.least > 0.01)
            return problem(ProblemCode::Geometry,
                           "Along the fold the plate is " + in_mm(thick.least) + " to " + in_mm(thick.most) + " thick.",
                           "Move it to where it is even.");
        if (web > thick.least - 0.1)
            return problem(ProblemCode::Range, "The plate is " + in_mm(thick.least) + " thick: no web is left to thin.",
                           "Make the web thinner.");
        deep = thick.least - web;
    }
    // Made larger for a halo every outside face stands out: the cut gets narrower and its floor higher.
    Transform corner = *at;
    corner.translate(Vec3(-reach, -length / 2 + g, -deep + g));
    if (length - 2 * g <= tolerance::smallest_mm || deep <= tolerance::smallest_mm) return StepResult{before, {}, {}};
    auto tool = make_block({2 * reach, length - 2 * g, deep + reach}, corner, context.source());
    if (!tool) return pass_on(tool);
    auto cut = combine(Operation::Cut, body, {*tool}, context.task);
    if (!cut) return pass_on(cut);
    StepResult result{before, cut->note, StepPlace{*at, {}, std::pair(0.0, deep)}};
    result.bodies[owner].body = cut->body;
    tell_pieces(result, owner, body.pieces());
    result.tools = {{Operation::Cut, [made = *tool]() -> Expected<Body> { return made; }}};
    if (g != 0) return result;
    const Vec3 root = *at * Vec3(0, 0, -deep - web / 2);
    result.bodies[owner].bends.push_back({context.step_id, root, at->linear().col(1)});
    add_note(result, folding_words(context, deep, result));
    return result;
}

} // namespace

StepKind living_hinge_kind() {
    StepKind kind;
    kind.id = "living_hinge";
    kind.title = "Living hinge";
    kind.purpose = "Thins a plate along a line to a web that folds, with its strain.";
    const double far = tolerance::largest_mm;
    kind.fields = {
        StepField{"on", FieldKind::Plane, "", 0, 0, {}, "the face it is cut into; the web stays on the other side"}.as(
            FieldRole::StandsOn),
        StepField{"at_x", FieldKind::Length, "0 mm", -far, far, {}, "of the fold's middle, left to right"}.as(
            FieldRole::AtX),
        StepField{"at_y", FieldKind::Length, "0 mm", -far, far, {}, "front to back"}.as(FieldRole::AtY),
        {"turn", FieldKind::Angle, "0 deg", -360, 360, {}, "of the fold: 0 runs left to right"},
        {"web", FieldKind::Length, "0.4 mm", 0.05, 10, {}, "how thick it stays; two layers or more"},
        {"length", FieldKind::Length, "6 mm", 0.2, 500, {}, "of the web, across the fold"},
        {"folds", FieldKind::Angle, "90 deg", 1, 180, {}, "how far it is folded"},
        {"way", FieldKind::Choice, "shut", 0, 0, {"shut", "open"}, "shut: the cut closes; open: it opens wider"}};
    kind.sentence = "Living hinge in {on} at {at_x}, {at_y}[, turned {turn}], a web {web} thick and {length} long, "
                    "folded {way} by {folds}";
    kind.group = StepGroup::Fits;
    kind.takes_away = true;
    kind.for_printer = true;
    kind.reports = true;
    kind.repeatable = true;
    kind.synonyms = {"fold", "film hinge", "flexure", "crease", "bend", "web"};
    kind.offers = {
        {.when = Chosen::Face, .place = 74, .words = "Living hinge here", .stands_there = true, .folded = true}};
    kind.evaluate = make_hinge;
    return kind;
}

} // namespace lp
