// Closed lines in a plane, filled with triangles.
#pragma once
#include "shape/tri_mesh.h"
#include <optional>

namespace lp {

/// The constrained Delaunay triangulation (by the general geometry library) of what the hull of closed lines holds
/// outside each of them; the lines are convex and turn the same way. Triangles index the places, counter-clockwise,
/// `hull` lists the outermost places the same way round; nothing where places coincide or the lines cross.
struct FlatPatch {
    std::vector<Triangle> triangles;
    std::vector<uint32_t> hull;
};
std::optional<FlatPatch> patch_between(const std::vector<std::vector<Vec2>>& lines);

/// What closed lines hold, by the even-odd rule; they may touch in places, but not cross. `first_at` tells for every
/// place the first that lies there; triangles index those, counter-clockwise. Nothing where lines cross.
struct FlatFill {
    std::vector<Triangle> triangles;
    std::vector<uint32_t> first_at;
};
std::optional<FlatFill> filled(const std::vector<std::vector<Vec2>>& lines);

/// A polygon in space cut up: a fan where it is convex as seen square on, its outline's triangulation where it is not.
struct FilledPolygon {
    std::vector<Triangle> triangles; ///< index the corners, turning as they do
    bool crosses_itself = false;     ///< then a fan, for want of anything better
};
FilledPolygon filled_polygon(const std::vector<Vec3>& corners);

} // namespace lp
