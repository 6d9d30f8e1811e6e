// Seating a part on another one: two chosen faces, and it follows both from then on.
#pragma once
#include "app/session.h"

namespace lp {

/// Of two chosen faces of two parts, both flat or both round (or their rims): the first one's part on the second one's.
std::optional<Seat> chosen_seat(const Session& session);
/// "Seat Lid on Box"
QString seat_words(const Session& session, const Seat& seat);
/// The part of the first chosen face gets that seat. Why not, in words; nothing is changed then.
std::optional<QString> seat_chosen(Session& session);

} // namespace lp
