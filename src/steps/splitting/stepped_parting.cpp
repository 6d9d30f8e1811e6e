#include "steps/splitting/stepped_parting.h"
#include "mesh/combine.h"
#include "outline/chains.h"
#include "steps/solids/profile_shape.h"
#include "steps/splitting/parting.h"
#include <algorithm>

namespace lp {
namespace {

constexpr double infinite = 1e300;

bool is_straight(const Curve& curve) {
    return flatten({curve}, 1e-4).size() == 2;
}

/// The straight stretches along `along`; the first and the last are carried on.
std::vector<PinPlane> stretches_of(const std::vector<Curve>& line, const Vec2& along, const Transform& plane) {
    std::vector<PinPlane> found;
    for (size_t i = 0; i < line.size(); ++i) {
        const Vec2 step = line[i].last() - line[i].first();
        if (!is_straight(line[i]) || step.normalized().dot(along) < 1 - 1e-9) continue;
        PinPlane stretch{plane, 0, step.norm()};
        stretch.plane.translation() = plane * Vec3(line[i].first().x(), line[i].first().y(), 0);
        const Vec2 left(-along.y(), along.x());
        stretch.plane.linear().col(0) = plane.linear() * Vec3(along.x(), along.y(), 0);
        stretch.plane.linear().col(2) = plane.linear() * Vec3(left.x(), left.y(), 0);
        stretch.plane.linear().col(1) = stretch.plane.linear().col(2).cross(stretch.plane.linear().col(0));
        if (i == 0) stretch.from_mm = -infinite;
        if (i + 1 == line.size()) stretch.to_mm = infinite;
        found.push_back(stretch);
    }
    return found;
}

} // namespace

Expected<SteppedParting> stepped_parting(const PlacedOutline& outline, double reach_mm, double gap_mm, TagSource tags,
                                         const Task& task) {
    const auto chain = longest_open_chain(outline.shape->curves);
    const std::vector<Curve> line = chain ? chain->plain() : std::vector<Curve>();
    Vec2 along = Vec2::Zero();
    for (const Curve& curve : line)
        if (const Vec2 step = curve.last() - curve.first(); is_straight(curve) && step.norm() > along.norm() + 1e-9)
            along = step;
    if (along.isZero())
        return problem(ProblemCode::Geometry, "There is no straight stretch in " + outline.name + " to set pins on.",
                       "Draw an open line with one, square to the way the halves go together.");
    along.normalize();
    const auto bends = flatten(line, 0.01);
    for (size_t i = 1; i < bends.size(); ++i)
        if ((bends[i] - bends[i - 1]).normalized().dot(along) < -1e-6)
            return problem(ProblemCode::Geometry,
                           outline.name + " turns back on itself: such halves cannot be put together.",
                           "Let it go on one way: its longest straight stretch tells which.");
    auto regions = regions_left_of(outline, reach_mm);
    if (!regions) return pass_on(regions);
    SteppedParting parting;
    parting.stretches = stretches_of(line, along, outline.plane);
    parting.plane = parting.stretches.front().plane;
    auto space = raised_body(*regions, -reach_mm, reach_mm, 0, outline.plane, tags);
    if (!space) return pass_on(space);
    parting.above = *space;
    if (parting.stretches.size() < line.size() && gap_mm > 0)
        // Moved to either side along the stretches, what is above in all three places: those stay as they are.
        for (double side : {-1.0, 1.0}) {
            Transform by = Transform::Identity();
            by.translation() = side * gap_mm * parting.plane.linear().col(0);
            auto beside = raised_body(*regions, -reach_mm, reach_mm, 0, by * outline.plane, tags);
            if (!beside) return pass_on(beside);
            auto less = combine(Operation::Common, *space, {*beside}, task);
            if (!less) return pass_on(less);
            space = less->body;
        }
    parting.upper = *space;
    return parting;
}

} // namespace lp
