#include "project/fine_strokes.h"
#include "base/quantity.h"
#include "outline/stroke_width.h"

namespace lp {

std::vector<FineStroke> fine_strokes(const PartResult& made, double line_mm) {
    constexpr double noise_mm = 0.005;
    std::vector<FineStroke> all;
    for (const PlacedOutline& outline : made.outlines) {
        if (!outline.shape) continue;
        std::map<DrawingId, FineStroke> texts;
        for (const FlatRegion& region : outline.shape->arrangement.regions) {
            const auto which = size_t(&region - outline.shape->arrangement.regions.data());
            if (which >= outline.shape->filled.size() || !outline.shape->filled[which] || region.outer.empty())
                continue;
            const DrawingId owner = outline.shape->owner_of(region.outer.front().key);
            const Element* element = outline.shape->drawing.element(owner);
            if (!element || element->kind != ElementKind::Text) continue;
            const auto finest = finest_stroke(region);
            if (!finest || *finest >= line_mm - noise_mm) continue;
            auto [at, fresh] = texts.try_emplace(owner);
            if (!fresh && at->second.finest_mm <= *finest) continue;
            const Vec2 inside = region.inside;
            at->second = {outline.step, owner, element_text(*element, "text"), *finest,
                          outline.plane * Vec3(inside.x(), inside.y(), 0)};
        }
        for (auto& [id, stroke] : texts) all.push_back(std::move(stroke));
    }
    return all;
}

std::optional<Finding> fine_stroke_finding(const PartResult& made, const Transform& pose, double line_mm) {
    const auto strokes = fine_strokes(made, line_mm);
    if (strokes.empty()) return std::nullopt;
    const auto finest = std::min_element(strokes.begin(), strokes.end(), [](const FineStroke& a, const FineStroke& b) {
        return a.finest_mm < b.finest_mm;
    });
    constexpr size_t told = 24;
    std::string says = "Strokes of \"" + finest->text.substr(0, told) + "\" are down to " +
                       format_number(finest->finest_mm, 2) + " mm wide, finer than a line of " +
                       format_number(line_mm, 2) + " mm";
    if (strokes.size() > 1) says += "; " + std::to_string(strokes.size() - 1) + " more texts too";
    return Finding{.kind = FindingKind::FineStroke,
                   .count = strokes.size(),
                   .where = pose * finest->at,
                   .says = says + ".",
                   .title = {},
                   .step = finest->step};
}

} // namespace lp
