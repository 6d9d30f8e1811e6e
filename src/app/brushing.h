// The brush over triangles of meshes: on the bed it marks what is wanted of them in print, as for faces of exact
// bodies; in the stretch Shape what it goes over becomes a face of its own.
#pragma once
#include "app/session.h"
#include "app/view/brush_handle.h"
#include "project/marked_faces.h"

namespace lp {

/// Whether the active part is printed and has triangles of its own.
bool can_brush(const Session& session);
/// The brush comes into the hand, on the bed; none: one that wipes marks off. Why not, in words.
std::optional<QString> take_brush(Session& session, std::optional<FaceMark> mark);
/// Whether the active part has triangles that a face could be made of.
bool can_brush_face(const Session& session);
/// The brush comes into the hand for a face: the one of the step in hand goes on, else the first stroke makes one.
/// `wipes`: what it goes over is taken out of the face again.
std::optional<QString> take_face_brush(Session& session, bool wipes);
/// The step in hand of the active part when it is one that the brush makes.
const Step* brushed_step(const Session& session);
/// Chooses the faces that the step in hand has made of what was gone over.
void choose_brushed(Session& session);
/// The place of the active part that a pick means.
std::optional<BrushHandle::Touch> touch_of(const Session& session, const Pick& pick);
/// What was drawn along is marked or becomes a face, or is wiped off.
void brush_along(Session& session, const std::vector<BrushHandle::Touch>& stroke);
/// Everything that was brushed on the part is wiped off.
void wipe_all(Session& session, PartId part);

} // namespace lp
