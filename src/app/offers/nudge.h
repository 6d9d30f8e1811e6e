// Small moves and repeats by one key.
#pragma once
#include "app/session.h"

namespace lp {

/// Moves the chosen body (or the active part) by so much: adds a move step, or adds to the one that ends the sheet.
void nudge(Session* session, const Vec3& by_mm);
/// One more of the repeat that ends the sheet; a repeat of the solid before where there is none yet.
void repeat_once_more(Session* session);

} // namespace lp
