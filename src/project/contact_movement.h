// Right where it stands is not yet right on the way: contacts of things that must move against each other, whether they
// were moved, and the movement that leads one along the way its step declares.
#pragma once
#include "project/movement_check.h"

namespace lp {

enum class Led {
    NotNeeded, ///< held tight, or not as wanted where it stands: that comes first
    NotYet,    ///< no movement of it was checked
    Free,      ///< a checked movement went all the way
    Binds      ///< the checked movements touch on the way
};

/// A contact that is right as it stands, of a fit at least as wide as "slide": common practice, no published source,
/// takes such gaps for what must turn, slide or be put in.
bool must_move(const Project& project, const ContactResult& contact);
/// From movements that were checked with the bodies as they are now.
Led led(const Evaluation& evaluation, const ContactResult& contact, const std::vector<const MovementOutcome*>& checked);
/// "right as it stands, not yet moved"; empty when nothing needs to be said.
std::string led_words(Led led);

/// Whether the contact's step says which way its partner goes through it, or one of the two has a thread.
bool has_way(const Project& project, const ContactResult& contact);
/// The movement of the smaller of the two along that way, from where it is drawn. A Problem when the partner does not
/// stand on the way. With a thread: unscrewed by its pitch, as far as it is long.
Expected<KeptMovement> movement_along_way(const Evaluation& evaluation, const ContactResult& contact);

} // namespace lp
