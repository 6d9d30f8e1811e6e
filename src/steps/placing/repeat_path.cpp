// Repeats along a drawn line.
#include "base/tolerance.h"
#include "outline/chains.h"
#include "steps/find_plane.h"
#include "steps/placing/repeating.h"

namespace lp {

StepKind repeat_path_kind() {
    StepKind kind;
    kind.id = "repeat_path";
    kind.title = "Repeat along a path";
    kind.purpose = "Copies what steps made, or bodies, along a drawn line; the first stands at its beginning.";
    kind.fields = repeating_fields(
        {StepField{"path", FieldKind::Outline, "", 0, 0, {}, "the outline they go along"}.optional("the last outline"),
         StepField{"count", FieldKind::Count, "6", 1, 100000, {}, "with the original"}.as(FieldRole::Count),
         {"spacing", FieldKind::Length, "0 mm", 0, 1e5, {}, "along the path; 0: evenly over all of it"},
         {"attitude", FieldKind::Choice, "turning", 0, 0, {"turning", "kept"}, "they turn with the path, or not"}});
    kind.sentence = std::string(repeated_words) + " {count} time|times along {path}[, {spacing} apart][, {attitude}]"
                                                  "[, without {drop}][, {does}][, many: {many}]";
    kind.group = StepGroup::Placing;
    kind.synonyms = {"pattern", "array", "along", "curve"};
    kind.repeatable = true;
    kind.evaluate = [](const std::vector<StepBody>& before, const StepContext& context) -> Expected<StepResult> {
        auto outline = find_outline(context, context.word("path"));
        if (!outline) return pass_on(outline);
        std::vector<SourcedCurve> drawn = (*outline)->shape->curves;
        drawn.insert(drawn.end(), (*outline)->shape->construction.begin(), (*outline)->shape->construction.end());
        auto chains = chains_of(drawn);
        if (chains.empty()) return problem(ProblemCode::Missing, "The path has no line.", "Draw one.");
        std::vector<Vec2> line;
        for (const Vec2& p : flatten(chains[0].plain(), 1e-4))
            if (line.empty() || (p - line.back()).norm() > 1e-9) line.push_back(p);
        if (chains[0].closed && (line.front() - line.back()).norm() > 1e-9) line.push_back(line.front());
        std::vector<double> along{0};
        for (size_t i = 1; i < line.size(); ++i) along.push_back(along.back() + (line[i] - line[i - 1]).norm());
        double count = context.number("count"), spacing = context.number("spacing"), length = along.back();
        if (spacing == 0 && count > 1) spacing = length / (chains[0].closed ? count : count - 1);
        if (spacing * (count - 1) > length + 1e-6)
            return problem(ProblemCode::Range, "The path is too short for that many at this distance.",
                           "Use fewer, or leave the distance at 0 to spread them evenly.");
        auto at = [&](double s) {
            size_t i = size_t(std::upper_bound(along.begin(), along.end(), s) - along.begin());
            i = std::clamp<size_t>(i, 1, line.size() - 1);
            double t = (s - along[i - 1]) / (along[i] - along[i - 1]);
            Vec2 p = line[i - 1] + t * (line[i] - line[i - 1]);
            Vec2 d = line[i] - line[i - 1];
            return std::pair(p, std::atan2(d.y(), d.x()));
        };
        const Transform& plane = (*outline)->plane;
        auto [start, heading] = at(0);
        std::vector<Affine> places;
        for (int k = 1; k < int(count); ++k) {
            auto [p, angle] = at(std::min(length, spacing * k));
            Affine local = Affine::Identity();
            local.translate(Vec3(p.x(), p.y(), 0));
            if (context.word("attitude") == "turning") local.rotate(Eigen::AngleAxisd(angle - heading, Vec3::UnitZ()));
            local.translate(Vec3(-start.x(), -start.y(), 0));
            places.push_back(Affine(plane) * local * Affine(plane.inverse()));
        }
        return repeat_at(before, context, std::move(places));
    };
    return kind;
}

} // namespace lp
