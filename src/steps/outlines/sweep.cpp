// Sweep: regions of an outline drawn along the path of another, turning and scaling on the way.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/outlines/growing.h"
#include "steps/outlines/swept_shape.h"
#include "steps/solids/placed_solid.h"
#include "steps/solids/profile_shape.h"

namespace lp {

StepKind sweep_kind() {
    StepKind kind;
    kind.id = "sweep";
    kind.title = "Sweep";
    kind.purpose = "Draws regions of an outline along a path, with twist and scale.";
    kind.fields = growing_fields(
        {StepField{"path", FieldKind::Outline, "", 0, 0, {}, "the drawing whose longest line is the path"}.optional(
             "the last outline"),
         {"twist", FieldKind::Angle, "0 deg", -7200, 7200, {}, "turns about the path by this much over its length"},
         {"scale", FieldKind::Number, "1", 0.01, 100, {}, "size at the end, against the beginning"},
         {"keep",
          FieldKind::Choice,
          "follow",
          0,
          0,
          {"follow", "upright"},
          "turns with the path, or keeps its direction"}});
    kind.sentence = "Sweep {regions} of {outline} along {path}[, turning {twist}][, ending {scale} times as large][, "
                    "kept {keep}], {does}";
    kind.group = StepGroup::Outlines;
    kind.synonyms = {"pipe", "path"};
    kind.repeatable = true;
    kind.offers = {{.when = Chosen::Region, .place = 40, .hint = "along another outline: choose it in the sentence"}};
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto source = find_regions_to_grow(context);
        if (!source) return pass_on(source);
        const Transform& plane = source->outline->plane;
        auto path = find_outline(context, context.word("path"));
        if (!path) return pass_on(path);
        if (source->outline == *path)
            return problem(ProblemCode::Missing, "The outline cannot be its own path.",
                           "Draw the path as an outline of its own and choose both.");
        auto regions = grown_regions(source->regions, context.growth_mm);
        if (!regions) return pass_on(regions);
        auto paths = open_paths(*(*path)->shape);
        if (paths.empty()) return problem(ProblemCode::Missing, "The path has no line.", "Draw one in its outline.");
        SweepOptions options;
        options.twist_deg = context.number("twist");
        options.scale = context.number("scale");
        options.upright = context.word("keep") == "upright";
        options.longer_mm = context.growth_mm;
        auto made = swept_body(*regions, plane, paths.front(), (*path)->plane, options, context.source());
        if (!made) return pass_on(made);
        auto result = apply_solid(before, *made, context);
        if (result) result->place = StepPlace{plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
