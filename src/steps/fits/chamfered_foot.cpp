#include "steps/fits/chamfered_foot.h"
#include "base/tolerance.h"
#include "mesh/cross_section.h"
#include "outline/flat_paths.h"
#include "outline/polygon_curves.h"
#include "steps/fits/joint_parts.h"
#include "steps/kernel_step.h"
#include "steps/solids/profile_shape.h"
#include <polyclipping/clipper.hpp>

namespace lp {
namespace {

using Polygons = std::vector<std::vector<Vec2>>;

constexpr double margin_mm = 0.04;  ///< chords of round walls stand so far into the gap
constexpr double touches_mm = 0.02; ///< what is nearer is joined anyway
constexpr uint64_t foot_salt = 0xf007;

Transform half_way_up(const Transform& stands, const StepContext& context) {
    return stands * Eigen::Translation3d(0, 0, context.first_layer_mm / 2);
}

double distance_to_side(const Vec2& p, const Vec2& a, const Vec2& b) {
    const Vec2 along = b - a;
    const double length = along.squaredNorm(), t = length > 0 ? std::clamp((p - a).dot(along) / length, 0.0, 1.0) : 0;
    return (p - a - t * along).norm();
}

/// Smallest distance of the corners of one to the sides of the other: that of the polygons, where they do not cross.
double corners_to_sides(const Polygons& corners, const Polygons& sides, double bound) {
    for (const auto& polygon : sides)
        for (size_t i = 0; i < polygon.size(); ++i) {
            const Vec2 &a = polygon[i], &b = polygon[(i + 1) % polygon.size()];
            const Vec2 low = a.cwiseMin(b).array() - bound, high = a.cwiseMax(b).array() + bound;
            for (const auto& other : corners)
                for (const Vec2& p : other)
                    if ((p.array() >= low.array()).all() && (p.array() <= high.array()).all())
                        bound = std::min(bound, distance_to_side(p, a, b));
        }
    return bound;
}

/// Without corners on a line between their neighbours: every edge of a mesh that a section crosses leaves one, and
/// walls that lie in one plane cannot be made to lean.
Polygons cleaned(const Polygons& polygons) {
    constexpr double grid_mm = 1e-5, clean_mm = 2e-4; // far less than a chord of an arc stands off it
    Polygons all;
    for (const auto& polygon : polygons) {
        ClipperLib::Path path;
        for (const Vec2& p : polygon)
            path.push_back(
                {ClipperLib::cInt(std::llround(p.x() / grid_mm)), ClipperLib::cInt(std::llround(p.y() / grid_mm))});
        ClipperLib::CleanPolygon(path, clean_mm / grid_mm);
        if (path.size() < 3) continue;
        all.emplace_back();
        for (const ClipperLib::IntPoint& p : path)
            all.back().emplace_back(double(p.X) * grid_mm, double(p.Y) * grid_mm);
    }
    return all;
}

Expected<std::vector<FlatRegion>> regions_of(const Polygons& polygons) {
    FlatPaths paths;
    FlatPath path;
    path.fill = FillRule::EvenOdd; // circles have lost which way round they went
    for (const auto& polygon : cleaned(polygons)) {
        path.contours.push_back(curves_of_polygon(polygon));
        path.closed.push_back(true);
    }
    paths.paths.push_back(std::move(path));
    const FlatCurves curves = curves_of(paths, {}, 1, 0);
    auto arrangement = arrange(curves.curves);
    if (!arrangement) return pass_on(arrangement);
    std::vector<size_t> filled;
    for (size_t i = 0; i < arrangement->regions.size(); ++i)
        if (is_painted(arrangement->regions[i], curves.rules)) filled.push_back(i);
    return merged_regions(*arrangement, filled);
}

/// The walls of an upright body leaning in as they rise from the plane; the kernel may hang on it, so it is asked in
/// its own process.
Expected<Body> leaned(const Body& upright, const Transform& plane, double lean_deg, const StepContext& context) {
    constexpr double budget_s = 4;
    const Vec3 at = plane.translation(), up = plane.linear().col(2);
    KernelCall call;
    call.what = "draft";
    call.numbers = {at.x(), at.y(), at.z(), up.x(), up.y(), up.z(), radians(lean_deg)};
    const Tessellation& shape = upright.tessellation();
    for (size_t f = 0; f < shape.faces.size(); ++f) {
        const FaceInfo& face = shape.faces[f];
        const double along = std::fabs(face.direction.dot(up)); // of planes their normal, of cylinders their axis
        if (face.kind == SurfaceKind::Plane ? along < 0.01 : face.kind == SurfaceKind::Cylinder)
            call.picks.push_back(int(f));
    }
    return run_kernel_step(upright, std::move(call), context, "A chamfered foot", 0, 4 * upright.mass().volume_mm3,
                           budget_s);
}

/// A tool, and what it leaves of the body it is for.
struct FootCut {
    Body tool, left;
};

/// Cuts what keeps `reach_mm` from a section, and less the higher it is, down to `drawn_mm`. Where walls that lean
/// cannot be made, or the kernel takes nothing away with them, a step of one layer.
Expected<FootCut> cut_foot(const Body& body, const Polygons& section, double reach_mm, double drawn_mm,
                           const Transform& middle, const StepContext& context, uint64_t salt) {
    auto regions = regions_of(section);
    if (regions) regions = grown_regions(*regions, reach_mm);
    if (!regions) return pass_on(regions);
    const double lean = std::min(steepest(context, 20, 70), 45.0), low = -context.first_layer_mm;
    auto cut = [&](const Expected<Body>& tool) -> Expected<FootCut> {
        if (!tool) return pass_on(tool);
        auto left = without(body, {*tool}, context);
        if (!left) return pass_on(left);
        constexpr double least_mm3 = 1e-4;
        if (body.mass().volume_mm3 - left->mass().volume_mm3 < least_mm3)
            return problem(ProblemCode::Geometry, "The foot could not be chamfered.",
                           "Leave it plain, or move the bodies by 0.01 mm.");
        return FootCut{*tool, *left};
    };
    for (double steep : {lean, lean - 5}) { // what the kernel does not see at one angle it may at another
        const double high = (reach_mm - 0.9 * drawn_mm) / std::tan(radians(steep));
        auto upright = raised_body(*regions, low, high, 0, middle, joint_tags(context, salt));
        if (!upright) break;
        if (auto leaning = cut(leaned(*upright, middle, steep, context))) return leaning;
    }
    return cut(raised_body(*regions, low, context.first_layer_mm / 2 + tolerance::smallest_mm, 0, middle,
                           joint_tags(context, salt)));
}

} // namespace

Expected<FootTools> foot_tools(const Body& a, const Body& b, const Transform& stands, const StepContext& context,
                               uint64_t salt) {
    const double wanted = context.first_layer_gap_mm + margin_mm;
    FootTools tools;
    if (a.box().exteriorDistance(b.box()) >= wanted) return tools;
    const Transform middle = half_way_up(stands, context);
    const Polygons of_a = cross_section(a.mesh(), middle), of_b = cross_section(b.mesh(), middle);
    const double drawn = corners_to_sides(of_a, of_b, corners_to_sides(of_b, of_a, wanted));
    if (drawn >= context.first_layer_gap_mm - 1e-6 || drawn < touches_mm) return tools;
    auto first = cut_foot(a, of_b, (wanted + drawn) / 2, drawn, middle, context, salt);
    if (!first) return pass_on(first);
    auto second = cut_foot(b, cross_section(first->left.mesh(), middle), wanted, drawn, middle, context, salt + 1);
    if (!second) return pass_on(second);
    return FootTools{first->tool, second->tool, first->left, second->left};
}

Expected<std::vector<Body>> with_chamfered_feet(std::vector<Body> bodies, const Transform& stands,
                                                const StepContext& context, size_t& count) {
    for (size_t i = 0; i < bodies.size(); ++i)
        for (size_t j = i + 1; j < bodies.size(); ++j) {
            if (context.cancelled()) return cancelled();
            auto tools = foot_tools(bodies[i], bodies[j], stands, context, foot_salt + 2 * (i * bodies.size() + j));
            if (!tools) return pass_on(tools);
            if (!tools->of_a) continue;
            bodies[i] = *tools->left_of_a;
            bodies[j] = *tools->left_of_b;
            ++count;
        }
    return bodies;
}

} // namespace lp
