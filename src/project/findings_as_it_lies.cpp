#include "project/findings_as_it_lies.h"
#include "base/quantity.h"
#include "base/text.h"
#include "bed/brim.h"
#include "project/fine_strokes.h"
#include "project/lying_holes.h"

namespace lp {
namespace {

std::optional<Finding> lifting_corners(const TriMesh& posed, const Part& part, const PrinterCard& card,
                                       const Task& task) {
    constexpr double large_mm = 100; // common practice, no published source
    const SupportOptions& options = part.supports.options;
    if (options.border_mm() > 0 || options.brim_mm > 0) return std::nullopt;
    const Vec3 size = bounding_box(posed).sizes();
    if (std::max(size.x(), size.y()) < large_mm) return std::nullopt;
    const auto corners = sharp_corners(posed, card.first_layer_mm, task);
    Box2 foot;
    for (const Vec2& c : corners) foot.extend(c);
    if (corners.empty() || foot.sizes().maxCoeff() < large_mm) return std::nullopt;
    return Finding{.kind = FindingKind::Lifting,
                   .count = corners.size(),
                   .where = Vec3(corners[0].x(), corners[0].y(), 0),
                   .says = "A flat bottom of " + format_number(foot.sizes().maxCoeff(), 0) + " mm with " +
                           counted(corners.size(), "sharp corner", "sharp corners") +
                           ": plastics that shrink much pull them up."};
}

/// What bends and stands steeper than half a right angle: its layers lie across it.
std::optional<Finding> across_layers(const PartResult& made, const Transform& pose) {
    const double steep = std::sqrt(0.5);
    std::optional<Finding> found;
    for (const StepBody& body : made.bodies)
        for (const Bending& bend : body.bends) {
            if (std::fabs((pose.linear() * bend.along).normalized().z()) < steep) continue;
            if (!found)
                found = Finding{.kind = FindingKind::AcrossLayers,
                                .where = pose * bend.root,
                                .says = "What bends here stands up: its layers lie across it, and bent it parts "
                                        "between two of them.",
                                .step = bend.step};
            ++found->count;
        }
    return found;
}

} // namespace

std::vector<Finding> findings_as_it_lies(const PartResult& made, const Part& part, const Transform& pose,
                                         const TriMesh& posed, const std::vector<JointGap>& joints,
                                         const PrinterCard& card, const Task& task) {
    std::vector<Finding> all;
    auto add = [&](std::optional<Finding> finding) {
        if (finding) all.push_back(std::move(*finding));
    };
    add(fine_stroke_finding(made, pose, card.line_mm()));
    add(across_layers(made, pose));
    add(lifting_corners(posed, part, card, task));
    const auto holes = lying_holes(made, pose, card);
    if (!holes.empty())
        all.push_back({.kind = FindingKind::LyingHole,
                       .count = holes.size(),
                       .where = holes.front().top,
                       .says = lying_hole_words(holes)});
    add(lying_joint(made, joints, pose, card.overhang_limit_deg));
    return all;
}

} // namespace lp
