// Shell: a body hollowed to a wall, open where faces are named.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/edges/shell_hollow.h"
#include "steps/kernel_step.h"

namespace lp {
namespace {

/// The kernel's own shell: quick, and right where no round runs into an open face.
Expected<Body> shell_by_kernel(const Body& body, const StepContext& context, const ShellWish& wish) {
    KernelCall call;
    call.what = "shell";
    for (size_t f : wish.open) call.picks.push_back(int32_t(f));
    call.numbers = {wish.inward ? wish.wall_mm : -wish.wall_mm};
    for (size_t f : wish.other) {
        call.numbers.push_back(double(f));
        call.numbers.push_back(wish.other_mm);
    }
    const double volume = body.mass().volume_mm3, area = body.mass().area_mm2, wall = wish.wall_mm;
    double most = std::max(wall, wish.other.empty() ? 0 : wish.other_mm) * area * 4;
    auto made = run_kernel_step(body, call, context, "A shell", 0, wish.inward ? volume : volume + most);
    if (!made || !wish.inward) return made;
    if (made->mass().volume_mm3 > volume * (1 - 1e-3))
        return problem(ProblemCode::Geometry, "The geometry kernel hollowed nothing.",
                       "Make the wall thinner: it fills the body.");
    // Seen in trials: a shell that lost a feature. A wall is about its thickness times the surface it follows.
    double open_area = 0;
    for (size_t f : wish.open) open_area += body.tessellation().faces[f].area_mm2;
    if (wish.other.empty() && made->mass().volume_mm3 > 1.5 * wall * (area - open_area) + 8 * wall * wall * wall)
        return problem(ProblemCode::Geometry, "The geometry kernel's shell is thicker than its wall.",
                       "Make the wall thinner, or shell before the fillets.");
    return made;
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
    if (!body.is_exact())
        return problem(ProblemCode::Geometry, "A shell needs an exact body, and this one is triangles.",
                       "Do it before the step that made it faceted; cutting and joining work on triangles too.");
    ShellWish wish{at, open->faces, other->faces, wall, context.number("other_wall") + 2 * context.growth_mm, inward};
    Expected<Body> made = problem(ProblemCode::Geometry, "A round runs into an open face.");
    // Where it went wrong the last time (checks are at once then), the other way is the surer one.
    auto needs = needs_hollow(body, wish);
    const bool hollow = needs && *needs;
    if (!hollow) made = shell_by_kernel(body, context, wish);
    if (!made && made.error().code != ProblemCode::Cancelled) made = shell_by_hollow(before, context, wish);
    if (!made) {
        Problem why = made.error();
        if (why.code != ProblemCode::Cancelled && why.advice.empty())
            why.advice = "Make the wall thinner than the smallest inner radius, or shell before the fillets and "
                         "details.";
        return pass_on(why);
    }
    StepResult result{before, {}, {}};
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
