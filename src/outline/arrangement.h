// The plane cut up by curves: nodes where they meet, edges between, and the closed regions they bound.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "outline/curve.h"
#include <cstdint>

namespace lp {

/// Names a curve for tags and region references: an element's id, or a hash for what is derived from one.
using SourceKey = uint64_t;

struct SourcedCurve {
    Curve curve;
    SourceKey key = 0;
    int group = 0;    ///< curves filled together by one rule; 0 for what was drawn here
    int contour = -1; ///< winding is counted by contour set: curves of one painted thing share it; -1 for none
};

/// A stretch of a source curve along a region's boundary.
struct BoundaryCurve {
    Curve curve; ///< in the direction that keeps the region on the left
    SourceKey key = 0;
    bool forward = true; ///< the source runs the same way: the region lies on its left
    int group = 0;
    uint32_t edge = 0; ///< the same number on both sides of it, within one arrangement
};
using BoundaryLoop = std::vector<BoundaryCurve>;

/// A closed region: one loop round it (counter-clockwise), and loops round what it leaves out (clockwise).
struct FlatRegion {
    BoundaryLoop outer;
    std::vector<BoundaryLoop> holes;
    double area_mm2 = 0;
    Vec2 inside = Vec2::Zero();               ///< a point well inside
    int depth = 0;                            ///< how many other connected figures lie round it
    std::vector<std::pair<int, int>> winding; ///< contour set and winding number, where not 0
};

struct OutlineGap {
    Vec2 at = Vec2::Zero();
    double size_mm = 0;
    bool closed = false; ///< small enough to be closed
};

struct Arrangement {
    std::vector<FlatRegion> regions; ///< largest first
    std::vector<OutlineGap> gaps;    ///< closed ones, and loose ends with the distance to what is nearest
    std::vector<Vec2> crossings;     ///< where a curve meets another or itself away from ends
};

/// Regions of all curves together (faces of their arrangement), nested ones with their holes. Ends nearer than
/// `closes_below` mm are closed and noted. Curves that bound nothing are left out. O((n + k) log n) for k meetings.
/// Fails when a curve is not finite, beyond 100 m, or when there are over two million meetings.
Expected<Arrangement> arrange(const std::vector<SourcedCurve>& curves, double closes_below = 0.01,
                              const Task& task = {});

std::vector<Curve> curves_of(const BoundaryLoop& loop);

} // namespace lp
