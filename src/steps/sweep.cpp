// Sweep: regions of an outline drawn along the path of another, turning and scaling on the way.
#include "base/quantity.h"
#include "base/tolerance.h"
#include "steps/find_plane.h"
#include "steps/profile_shape.h"
#include "steps/swept_shape.h"

namespace lp {

StepKind sweep_kind() {
    StepKind kind;
    kind.id = "sweep";
    kind.title = "Sweep";
    kind.purpose = "Draws regions of an outline along a path, with twist and scale.";
    kind.fields = growing_fields(
        {{"path", FieldKind::Outline, "", 0, 0, {}, "the drawing whose longest line is the path"},
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
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto source = find_regions_to_grow(context);
        if (!source) return tl::make_unexpected(source.error());
        const Transform& plane = source->outline->plane;
        auto path = find_outline(context, context.word("path"));
        if (!path) return tl::make_unexpected(path.error());
        if (source->outline == *path)
            return problem(ProblemCode::Missing, "The outline cannot be its own path.",
                           "Draw the path as an outline of its own and choose both.");
        auto regions = grown_regions(source->regions, context.growth_mm);
        if (!regions) return tl::make_unexpected(regions.error());
        auto paths = open_paths(*(*path)->shape);
        if (paths.empty()) return problem(ProblemCode::Missing, "The path has no line.", "Draw one in its outline.");
        SweepOptions options;
        options.twist_deg = context.number("twist");
        options.scale = context.number("scale");
        options.upright = context.word("keep") == "upright";
        options.longer_mm = context.growth_mm;
        auto made =
            swept_body(*regions, plane, paths.front(), (*path)->plane, options, {context.step_id, context.copy});
        if (!made) return tl::make_unexpected(made.error());
        auto result = apply_solid(before, *made, context);
        if (result) result->place = StepPlace{plane, {}, {}};
        return result;
    };
    return kind;
}

StepKind loft_kind() {
    StepKind kind;
    kind.id = "loft";
    kind.title = "Loft";
    kind.purpose = "Runs smoothly through two or more outlines.";
    kind.fields = {
        {"outlines", FieldKind::Outlines, "", 0, 0, {}, "two or more drawings, in order"},
        {"walls", FieldKind::Choice, "smooth", 0, 0, {"smooth", "straight"}, "between three and more outlines"}};
    for (const StepField& field : placing_fields())
        if (field.name == "does") kind.fields.push_back(field);
    kind.sentence = "Loft through {outlines}[, {walls} between them], {does}";
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        if (context.growth_mm != 0)
            return problem(ProblemCode::Geometry, "A lofted body cannot carry a gap.",
                           "Cut with another shape, or loft through larger outlines.");
        std::vector<LoftSection> sections;
        const std::string& names = context.word("outlines");
        for (size_t from = 0; from < names.size();) {
            size_t to = std::min(names.find(',', from), names.size());
            std::string name = names.substr(from, to - from);
            from = to + 1;
            name.erase(0, name.find_first_not_of(' '));
            name.erase(name.find_last_not_of(' ') + 1);
            if (name.empty()) continue;
            auto outline = find_outline(context, name);
            if (!outline) return tl::make_unexpected(outline.error());
            auto chosen = chosen_regions(*(*outline)->shape, "all");
            if (!chosen) return tl::make_unexpected(chosen.error());
            auto regions = merged_regions((*outline)->shape->arrangement, *chosen);
            if (!regions) return tl::make_unexpected(regions.error());
            if (regions->size() != 1)
                return problem(ProblemCode::Geometry,
                               "The outline " + name + " has " + std::to_string(regions->size()) +
                                   " regions, and a loft takes one of each.",
                               "Keep one closed line in it.");
            sections.push_back({regions->front(), (*outline)->plane});
        }
        auto made = lofted_body(sections, context.word("walls") == "straight", {context.step_id, context.copy});
        if (!made) return tl::make_unexpected(made.error());
        auto result = apply_solid(before, *made, context);
        if (result) result->place = StepPlace{sections[0].plane, {}, {}};
        return result;
    };
    return kind;
}

} // namespace lp
