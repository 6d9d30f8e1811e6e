// Single supports of the part in hand on the bed: chosen, put in, taken away, moved; all of it copied to siblings.
#pragma once
#include "app/session.h"

namespace lp {

/// Places in the design frame that tips of the active part carry; empty where none are shown.
std::vector<Vec3> carried_places(const Session& session);
/// Whether the place is one of them.
bool is_among(const std::vector<Vec3>& places, const Vec3& place);
/// The picked place, where it looks down or sideways as the part lies: something can carry it there.
std::optional<Vec3> place_to_carry(const Session& session, const Pick& pick);
void put_support_in(Session& session, const Vec3& place);
/// The place picked last, on the bed, where something can carry it.
std::optional<Vec3> picked_place_to_carry(const Session& session);
void take_support_away(Session& session, const Vec3& place);
void move_support(Session& session, const Vec3& from, const Vec3& to);
/// The next of them, as they stand from the left; the first when none is in hand.
void choose_next_support(Session& session);
/// As the maker set them: no single one put in or left out.
void forget_single_supports(Session& session);
/// Parts of the same shape lie and are supported alike; says when there is none.
void lay_siblings_alike(Session& session);

} // namespace lp
