// Work on what is drawn: trim, extend, split, round and bevel corners, mirror and repeat. Each gives the next drawing,
// or says why not.
#pragma once
#include "base/problem.h"
#include "outline/drawing.h"

namespace lp {

/// The stretch of a line, arc or circle around `at`, up to where others cross it, is taken away.
Expected<Drawing> trim(const Drawing& drawing, DrawingId element, const Vec2& at);
/// The end of a line or arc nearer to `at` goes on to the next element it meets.
Expected<Drawing> extend(const Drawing& drawing, DrawingId element, const Vec2& at);
/// A line or arc in two, joined at the point nearest to `at`.
Expected<Drawing> split(const Drawing& drawing, DrawingId element, const Vec2& at);
/// An arc of this radius (an expression) in the corner of two lines at a shared point, tangent to both.
Expected<Drawing> round_corner(const Drawing& drawing, DrawingId point, const std::string& radius,
                               const ParameterValues& parameters);
/// A line across the corner, this far from it on both sides.
Expected<Drawing> bevel_corner(const Drawing& drawing, DrawingId point, const std::string& size,
                               const ParameterValues& parameters);
/// Copies mirrored about a line, kept symmetric to their originals.
Expected<Drawing> mirror(const Drawing& drawing, const std::set<DrawingId>& elements, DrawingId line);
/// Copies moved by `step` again and again, kept at these distances; `count` includes the original.
Expected<Drawing> repeat_along(const Drawing& drawing, const std::set<DrawingId>& elements, const Vec2& step,
                               int count);
/// Copies turned about `centre`, evenly over `angle_deg` (360: all the way round).
Expected<Drawing> repeat_round(const Drawing& drawing, const std::set<DrawingId>& elements, const Vec2& centre,
                               double angle_deg, int count);
/// A file or picture that was brought in, scaled so that two of its places are as far apart as they are in truth (an
/// expression). The first place stays where it is, unless the element hangs on the origin: then that does.
Expected<Drawing> set_true_length(const Drawing& drawing, DrawingId import, const Vec2& from, const Vec2& to,
                                  const std::string& length, const ParameterValues& parameters);
/// Elements of one drawing added to another, with the constraints that are wholly among them; moved by `by`.
Drawing copied_into(const Drawing& target, const Drawing& source, const std::set<DrawingId>& elements, const Vec2& by,
                    std::vector<DrawingId>* added = nullptr);

} // namespace lp
