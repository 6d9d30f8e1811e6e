// Repeats in rows: equal steps in one or two directions.
#include "base/tolerance.h"
#include "steps/placing/repeating.h"

namespace lp {

StepKind repeat_kind() {
    StepKind kind;
    kind.id = "repeat";
    kind.title = "Repeat in rows";
    kind.purpose = "Copies what steps made, or bodies, at equal steps in one or two directions.";
    const double far = tolerance::largest_mm;
    kind.fields = repeating_fields(
        {StepField{"count", FieldKind::Count, "3", 1, 100000, {}, "with the original"}.as(FieldRole::Count),
         {"by_x", FieldKind::Length, "10 mm", -far, far, {}, "from one to the next"},
         {"by_y", FieldKind::Length, "0 mm", -far, far, {}, "from one to the next"},
         {"by_z", FieldKind::Length, "0 mm", -far, far, {}, "from one to the next"},
         {"rows", FieldKind::Count, "1", 1, 100000, {}, "of such rows"},
         {"row_x", FieldKind::Length, "0 mm", -far, far, {}, "from row to row"},
         {"row_y", FieldKind::Length, "10 mm", -far, far, {}, "from row to row"},
         {"row_z", FieldKind::Length, "0 mm", -far, far, {}, "from row to row"}});
    kind.sentence = std::string(repeated_words) +
                    " {count} time|times by {by_x}, {by_y}, {by_z}[, in {rows} row|rows by {row_x}, {row_y}, {row_z}]"
                    "[, without {drop}][, {does}][, many: {many}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"pattern", "array", "linear", "copy"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        Vec3 by(context.number("by_x"), context.number("by_y"), context.number("by_z"));
        Vec3 row(context.number("row_x"), context.number("row_y"), context.number("row_z"));
        double count = context.number("count"), rows = context.number("rows");
        if ((count > 1 && by.norm() < tolerance::same_mm) || (rows > 1 && row.norm() < tolerance::same_mm))
            return problem(ProblemCode::Range, "All copies would lie in one place.", "Give them a distance.");
        if (count * rows > 100000)
            return problem(ProblemCode::Range, "More than 100,000 copies cannot be made.", "Use fewer.");
        std::vector<Affine> places;
        for (int r = 0; r < int(rows); ++r)
            for (int k = 0; k < int(count); ++k)
                if (r + k > 0) places.push_back(Affine(Eigen::Translation3d(k * by + r * row)));
        return repeat_at(before, context, std::move(places));
    };
    return kind;
}

} // namespace lp
