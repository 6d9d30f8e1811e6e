// Shell: a body hollowed to a wall, open where faces are named.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/exact_shape.h"
#include "steps/find_edges.h"
#include "steps/kernel_step.h"
#include <BRepAdaptor_Surface.hxx>
#include <TopExp_Explorer.hxx>
#include <TopoDS.hxx>
#include <TopoDS_Face.hxx>
#include <gp_Cylinder.hxx>
#include <gp_Sphere.hxx>
#include <gp_Torus.hxx>

namespace lp {
namespace {

/// Whether a round face of the body, or the tube of a ring, has this radius.
bool has_round_of(const Body& body, double radius) {
    if (!body.is_exact()) return false;
    for (TopExp_Explorer it(body.exact()->shape, TopAbs_FACE); it.More(); it.Next()) {
        BRepAdaptor_Surface surface(TopoDS::Face(it.Current()), false);
        double its = surface.GetType() == GeomAbs_Cylinder ? surface.Cylinder().Radius()
                     : surface.GetType() == GeomAbs_Sphere ? surface.Sphere().Radius()
                     : surface.GetType() == GeomAbs_Torus  ? surface.Torus().MinorRadius()
                                                           : 0;
        if (std::fabs(its - radius) < tolerance::same_mm) return true;
    }
    return false;
}

Expected<StepResult> shell_bodies(const std::vector<StepBody>& before, const StepContext& context) {
    auto open = find_faces(before, context, context.value("open").geometry());
    if (!open) return pass_on(open);
    auto other = find_faces(before, context, context.value("other_faces").geometry());
    if (!other) return pass_on(other);
    bool named = !context.value("open").geometry().empty();
    size_t at = named ? open->body : other->body;
    if (!other->faces.empty() && other->body != at)
        return problem(ProblemCode::Wording, "These faces are on different bodies.", "Use a step for each body.");
    const Body& body = before[at].body;
    bool inward = context.word("side") == "inward";
    // A skin at a distance all round: the wall grows on both its sides.
    double wall = context.number("wall") + 2 * context.growth_mm;
    if (inward && open->faces.empty() && 2 * wall >= body.box().sizes().minCoeff())
        return problem(ProblemCode::Range,
                       "A wall of " + format_number(wall) + " mm fills the body, which is " +
                           format_number(body.box().sizes().minCoeff()) + " mm at its narrowest.",
                       "Make the wall thinner.");
    KernelCall call;
    call.what = "shell";
    for (size_t f : open->faces) call.picks.push_back(int32_t(f));
    call.numbers = {inward ? wall : -wall};
    for (size_t f : other->faces) {
        call.numbers.push_back(double(f));
        call.numbers.push_back(context.number("other_wall") + 2 * context.growth_mm);
    }
    double volume = body.mass().volume_mm3, area = body.mass().area_mm2;
    double most = std::max(wall, other->faces.empty() ? 0 : context.number("other_wall")) * area * 4;
    // Where it went wrong the last time (checks are at once then), and for that reason, it is not tried again.
    Expected<Body> made = problem(ProblemCode::Geometry, "A round is as thick as the wall.");
    if (context.check_later || !has_round_of(body, wall))
        made = run_kernel_step(body, call, context, "A shell", 0, inward ? volume : volume + most);
    std::string note;
    // A wall exactly as thick as a round's radius leaves a round of no size, which kernels trip over: half a
    // thousandth more or less does not, and no printer shows it. More first: what reaches to the wall stays joined.
    for (double nudge : {5e-4, -5e-4}) {
        if (made || made.error().code == ProblemCode::Cancelled || !body.is_exact()) break;
        KernelCall other = call;
        other.numbers[0] += inward ? nudge : -nudge;
        made = run_kernel_step(body, other, context, "A shell", 0, inward ? volume : volume + most);
        if (made)
            note = "The wall is " + format_number(wall + nudge, 4) +
                   " mm: a wall exactly as thick as a round has no inside there.";
    }
    if (made && inward && made->mass().volume_mm3 > volume * (1 - 1e-3))
        made = problem(ProblemCode::Geometry, "The geometry kernel hollowed nothing.",
                       "Make the wall thinner: it fills the body.");
    // Seen in trials: a shell that lost a feature. A wall is about its thickness times the surface it follows.
    if (made && inward && other->faces.empty()) {
        double open_area = 0;
        for (size_t f : open->faces) open_area += body.tessellation().faces[f].area_mm2;
        if (made->mass().volume_mm3 > 1.5 * wall * (area - open_area) + 8 * wall * wall * wall)
            made = problem(ProblemCode::Geometry, "The geometry kernel's shell is thicker than its wall.",
                           "Make the wall thinner, or shell before the fillets.");
    }
    if (!made) {
        Problem why = made.error();
        if (why.code != ProblemCode::Cancelled && body.is_exact())
            why.advice = "Make the wall thinner than the smallest inner radius, or shell before the fillets and "
                         "details.";
        return pass_on(why);
    }
    StepResult result{before, note, {}};
    result.bodies[at].body = *made;
    return result;
}

} // namespace

StepKind shell_kind() {
    StepKind kind;
    kind.id = "shell";
    kind.title = "Shell";
    kind.purpose = "Hollows a body to a wall, open at the faces you name.";
    kind.fields = {
        StepField{"open", FieldKind::Faces, "", 0, 0, {}, "faces left open; none for a closed hollow"}
            .optional()
            .filled_by(Filler::Faces),
        {"wall", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "thickness"},
        {"side", FieldKind::Choice, "inward", 0, 0, {"inward", "outward"}, "where the wall grows from the faces"},
        StepField{"other_faces", FieldKind::Faces, "", 0, 0, {}, "faces with a wall of their own"}.optional(),
        {"other_wall", FieldKind::Length, "2 mm", tolerance::smallest_mm, 1e4, {}, "their wall"}};
    kind.sentence = "Shell to {wall}, open at {open}[, the wall {side}][, but {other_faces} to {other_wall}]";
    kind.group = StepGroup::Edges;
    kind.synonyms = {"hollow", "wall"};
    kind.needs_exact = true;
    kind.offers = {{.when = Chosen::Face, .place = 40, .words = "Shell, open here"},
                   {.when = Chosen::Faces, .place = 10, .words = "Shell, open here"}};
    kind.evaluate = shell_bodies;
    return kind;
}

} // namespace lp
