// Places that are printed without hollows whatever the infill: bosses, walls round screw holes.
#include "base/quantity.h"
#include "base/text.h"
#include "steps/step_kind.h"
#include <algorithm>

namespace lp {
namespace {

/// What the step joined, cut or made as a body of its own.
Expected<std::vector<Body>> made_by(const std::vector<StepBody>& before, const StepContext& context,
                                    const std::string& name) {
    const auto step = context.step_named ? context.step_named(name) : std::nullopt;
    if (!step) return problem(ProblemCode::Missing, "There is no step called \"" + name + "\".", "Name another.");
    std::vector<Body> made;
    for (const StepTool& tool : context.tools_of ? context.tools_of(*step) : std::vector<StepTool>{}) {
        auto body = tool.body();
        if (!body) return pass_on(body);
        made.push_back(*body);
    }
    if (made.empty())
        for (const StepBody& body : before)
            if (body.made_by == *step) made.push_back(body.body);
    if (made.empty())
        return problem(ProblemCode::Geometry, "Step \"" + name + "\" makes no solid of its own before this.",
                       "Name the step that makes the boss, or cuts the hole.");
    return made;
}

Expected<StepResult> print_solid(const std::vector<StepBody>& before, const StepContext& context) {
    StepResult result{before, {}, {}};
    if (context.growth_mm != 0) return result; // a halo has no inside
    const double around = context.number("around");
    double solid_mm3 = 0;
    for (const std::string& name : listed(context.word("what"), ',')) {
        auto made = made_by(before, context, name);
        if (!made) return pass_on(made);
        for (const Body& where : *made) {
            solid_mm3 += where.mass().volume_mm3;
            Box3 reach = where.box();
            reach.min().head<2>().array() -= around;
            reach.max().head<2>().array() += around;
            for (StepBody& body : result.bodies)
                if (body.body.box().intersects(reach)) body.solids.push_back({where, around});
        }
    }
    if (solid_mm3 == 0)
        return problem(ProblemCode::Missing, "It is not said what is printed solid.",
                       "Name the step that makes the boss, or cuts the hole.");
    result.note = "It is filled there whatever the infill.";
    return result;
}

} // namespace

StepKind print_solid_kind() {
    StepKind kind;
    kind.id = "print_solid";
    kind.title = "Print solid";
    kind.purpose = "Fills what a step made in the print, whatever the infill: a boss, or the wall round a screw hole.";
    kind.fields = {
        StepField{"what", FieldKind::Steps, "", 0, 0, {}, "steps that make bosses or cut holes, by commas"}.filled_by(
            Filler::Makers),
        {"around", FieldKind::Length, "0 mm", 0, 100, {}, "sideways round it too; for holes"}};
    kind.sentence = "Print {what} solid, and {around} round it";
    kind.group = StepGroup::Fits;
    kind.synonyms = {"infill", "full", "filled", "dense", "boss", "strong", "reinforce"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 230}}; // the menu of a face is long enough
    kind.evaluate = print_solid;
    return kind;
}

} // namespace lp
