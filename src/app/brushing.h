// The brush that marks triangles of meshes: what is wanted of them in print, as for faces of exact bodies.
#pragma once
#include "app/session.h"
#include "app/view/brush_handle.h"
#include "project/marked_faces.h"

namespace lp {

/// Whether the active part is printed and has triangles of its own.
bool can_brush(const Session& session);
/// The brush comes into the hand, on the bed; none: one that wipes marks off. Why not, in words.
std::optional<QString> take_brush(Session& session, std::optional<FaceMark> mark);
/// The place of the active part that a pick means.
std::optional<BrushHandle::Touch> touch_of(const Session& session, const Pick& pick);
/// What was drawn along is marked, or wiped off.
void brush_along(Session& session, const std::vector<BrushHandle::Touch>& stroke);
/// Everything that was brushed on the part is wiped off.
void wipe_all(Session& session, PartId part);

} // namespace lp
