// Figures drawn in one go, as elements and the constraints that keep them what they are. Each returns the elements it
// added.
#pragma once
#include "outline/drawing.h"

namespace lp {

using DrawnElements = std::vector<DrawingId>;

/// A point near `at` that is there already (within `near_mm`), or a new one. The origin counts.
DrawingId point_near(Drawing& drawing, const Vec2& at, double near_mm);

/// Four lines, level and upright, corners shared: bottom, right, top, left.
DrawnElements add_rectangle(Drawing& drawing, const Vec2& corner, const Vec2& opposite, double near_mm = 0);
/// The same with a construction diagonal whose middle is the centre.
DrawnElements add_centred_rectangle(Drawing& drawing, const Vec2& centre, const Vec2& corner, double near_mm = 0);
/// Lines and tangent arcs of one radius.
DrawnElements add_rounded_rectangle(Drawing& drawing, const Vec2& corner, const Vec2& opposite, double radius);
/// Two arcs about `a` and `b` of one radius, and the tangent lines between them.
DrawnElements add_slot(Drawing& drawing, const Vec2& a, const Vec2& b, double radius);
/// Equal sides on a construction circle: through the corners, or touching the flats when `over_flats`. `rim` is the
/// middle of the first side (over flats) or the first corner.
DrawnElements add_polygon(Drawing& drawing, const Vec2& centre, const Vec2& rim, int sides, bool over_flats);
DrawnElements add_arc_through(Drawing& drawing, const Vec2& a, const Vec2& middle, const Vec2& b, double near_mm = 0);

} // namespace lp
