// Cutting a place for a stand-in, or for another part, at a fit: the tool is remade larger by the gap on every face.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/fits/vanished_wall.h"
#include "steps/step_kind.h"

namespace lp {

StepKind cut_with_kind() {
    StepKind kind;
    kind.id = "cut_with";
    kind.title = "Cut with a fit";
    kind.purpose = "Cuts the place another part or a stand-in sits in, wider by the fit's gap on every face.";
    kind.fields = {StepField{"tool", FieldKind::Part, "", 0, 0, {}, "the part or stand-in that goes in"}
                       .as(FieldRole::GoesIn)
                       .filled_by(Filler::OtherPart),
                   {"fit", FieldKind::Fit, "slide", 0, 0, {}, "a named fit, or a gap a face in mm"}};
    kind.sentence = "Cut with {tool}, fit {fit}";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"pocket", "clearance", "subtract", "fit"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::TwoParts,
                    .place = 10,
                    .words = "Cut {part} with {other}",
                    .hint = "Makes room for it at a fit you can change afterwards",
                    .any_body = true}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (before.empty())
            return problem(ProblemCode::Missing, "There is no body yet to cut from.", "Put a solid before this step.");
        auto gap = context.fit_gap(context.word("fit"), context.word("tool"));
        if (!gap) return pass_on(gap);
        // Where this part itself is being grown for a halo, its pockets shrink: the offset of a difference.
        auto tool = context.part_body(context.word("tool"), *gap - context.growth_mm);
        if (!tool) return pass_on(tool);
        StepResult result{before, {}, {}};
        if (!tool->is_exact())
            result.note = "The place is cut on triangles: " + context.word("tool") +
                          " can neither be remade larger by its numbers nor offset exactly, so its halo is made of "
                          "facets, within 0.02 mm.";
        Expected<std::vector<Body>> as_it_is = std::vector<Body>();
        if (context.growth_mm == 0 && *gap > 0) as_it_is = context.part_as_it_is(context.word("tool"));
        std::string vanished;
        bool missed = true;
        for (StepBody& target : result.bodies) {
            if (!target.body.box().intersects(tool->box())) continue;
            auto combined = combine(Operation::Cut, target.body, {*tool}, context.task);
            if (!combined) return pass_on(combined);
            if (std::fabs(combined->body.mass().volume_mm3 - target.body.mass().volume_mm3) > tolerance::overlap_mm3)
                missed = false;
            if (!combined->note.empty() && result.note.empty()) result.note = combined->note;
            if (as_it_is)
                for (const Body& body : *as_it_is)
                    if (vanished.empty()) vanished = vanished_wall(target.body, body, *tool, *gap, context.task);
            target.body = combined->body;
        }
        result.tools = {{Operation::Cut, [tool = *tool]() -> Expected<Body> { return tool; }}};
        if (!vanished.empty()) result.note = vanished + (result.note.empty() ? "" : " " + result.note);
        if (missed) result.note = "It cuts nothing: " + context.word("tool") + " does not reach into this part.";
        return result;
    };
    return kind;
}

} // namespace lp
