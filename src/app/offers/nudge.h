// Small moves and repeats by one key.
#pragma once
#include "app/session.h"

namespace lp {

/// Moves the chosen body (or the active part) by so much: adds a move step, or adds to the one that ends the sheet.
/// In the stretch Fit it is the part that is moved in the assembly, and its drawing stays where it was.
void nudge(Session* session, const Vec3& by_mm);
/// The same for a part, or one of its bodies.
void move_by(Session* session, PartId part, std::optional<size_t> body, const Vec3& by_mm);
/// Turned about an axis of the assembly (0 x, 1 y, 2 z) through a place of it.
void turn_by(Session* session, PartId part, std::optional<size_t> body, int axis, double angle_deg, const Vec3& centre);
/// One more of the repeat that ends the sheet; a repeat of the solid before where there is none yet.
void repeat_once_more(Session* session);

} // namespace lp
