// Bodies are opened where the halo of another one reaches into them.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "shape/copies.h"
#include "steps/fits/vanished_wall.h"
#include "steps/pick_bodies.h"
#include "steps/step_kind.h"

namespace lp {
namespace {

/// Cuts every chosen body by the halos of the others that reach it.
Expected<StepResult> open_bodies(const std::vector<StepBody>& before, const StepContext& context) {
    if (context.growth_mm != 0)
        return problem(ProblemCode::Geometry, "A body opened by a halo cannot be remade larger by its numbers.", "");
    auto opened = pick_bodies(before, context.word("what"), "open");
    if (!opened) return pass_on(opened);
    auto carriers = pick_bodies(before, context.word("by"), "open by");
    if (!carriers) return pass_on(carriers);
    StepResult result{before, {}, {}};
    size_t halos = 0, cuts = 0;
    for (size_t c : *carriers) halos += before[c].halos.size();
    if (!halos)
        return problem(ProblemCode::Missing, "None of these bodies carries a halo.",
                       "Give one a halo before this step.");
    for (size_t i : *opened) {
        std::vector<Body> tools;
        std::string vanished;
        for (size_t c : *carriers)
            for (const CarriedHalo& halo : before[c].halos)
                if (c != i && halo.envelope.box().intersects(before[i].body.box())) {
                    Body tool = halo.envelope;
                    // The socket's faces are named after the halo's, apart from the body's own.
                    tools.push_back(renamed_copy(tool, context.step_id, c + 1));
                    double widest = std::max(halo.gap_mm, halo.along_gap_mm.value_or(0));
                    if (vanished.empty())
                        vanished = vanished_wall(before[i].body, before[c].body, halo.envelope, widest, context.task);
                }
        if (tools.empty()) continue;
        if (context.cancelled()) return cancelled();
        int pieces = before[i].body.pieces();
        auto cut = combine(Operation::Cut, before[i].body, tools, context.task);
        if (!cut) {
            Problem why = cut.error();
            if (why.code == ProblemCode::NothingLeft)
                why = {ProblemCode::Geometry, "The halos take away the whole of a body.",
                       "Move it, or use a closer fit."};
            return pass_on(why);
        }
        if (std::fabs(cut->body.mass().volume_mm3 - before[i].body.mass().volume_mm3) > tolerance::overlap_mm3) ++cuts;
        if (!cut->note.empty()) result.note = cut->note;
        result.bodies[i].body = cut->body;
        tell_pieces(result, i, pieces);
        if (!vanished.empty()) result.note = vanished + (result.note.empty() ? "" : " " + result.note);
    }
    if (!cuts && result.note.empty()) result.note = "It opens nothing: no halo reaches another body.";
    return result;
}

} // namespace

StepKind open_for_halos_kind() {
    StepKind kind;
    kind.id = "open_for_halos";
    kind.title = "Open for halos";
    kind.purpose = "Cuts bodies where the halo of another one reaches into them.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies that are opened"},
                   {"by", FieldKind::Bodies, "all", 0, 0, {}, "bodies whose halos do it"}};
    kind.sentence = "Open {what} for the halos of {by}";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"clear", "subtract"};
    kind.offers = {{.when = Chosen::Body2, .place = 20, .any_body = true}};
    kind.evaluate = open_bodies;
    return kind;
}

} // namespace lp
