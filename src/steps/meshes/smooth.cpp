// Rough bodies of triangles made even.
#include "mesh/smooth.h"
#include "base/quantity.h"
#include "steps/meshes/mesh_faces.h"
#include "steps/pick_bodies.h"

namespace lp {

StepKind smooth_kind() {
    StepKind kind;
    kind.id = "smooth";
    kind.title = "Smooth";
    kind.purpose = "Evens out a rough mesh, with the volume it has; sharp edges stay.";
    kind.fields = {{"what", FieldKind::Bodies, "all", 0, 0, {}, "bodies of triangles"},
                   {"rounds", FieldKind::Count, "10", 1, 500, {}, "the more, the smoother"},
                   {"edges", FieldKind::Angle, "40 deg", 1, 180, {}, "edges that bend more stay"}};
    kind.sentence = "Smooth {what} in {rounds} rounds[, keeping edges above {edges}]";
    kind.group = StepGroup::Meshes;
    kind.synonyms = {"even", "relax", "fair", "rough", "scan", "noise", "polish"};
    kind.reports = true;
    kind.offers = {{.when = Chosen::Nothing, .place = 220}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto chosen = pick_bodies(before, context.word("what"), "smooth");
        if (!chosen) return pass_on(chosen);
        Expected<StepResult> result = StepResult{before, {}, {}};
        double largest = -1;
        for (size_t i : *chosen) {
            if (before[i].body.is_exact()) continue;
            auto even =
                smooth_mesh(before[i].body.mesh(),
                            {int(std::lround(context.number("rounds"))), context.number("edges")}, context.task);
            if (!even) return pass_on(even);
            largest = std::max(largest, even->largest_move_mm);
            result = with_mesh(result->bodies, i, std::move(even->mesh), context);
            if (!result) return result;
        }
        if (largest < 0)
            return problem(ProblemCode::Geometry, "There is no body of triangles here to smooth.",
                           "Exact bodies are as smooth as their numbers.");
        result->note = "No corner moved by more than " + format_quantity(largest, QuantityKind::Length, 3) + ".";
        return result;
    };
    return kind;
}

} // namespace lp
