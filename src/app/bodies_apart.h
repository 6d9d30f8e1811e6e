// The act that makes a part of some bodies of another.
#pragma once

namespace lp {

class Session;

/// The chosen body, or without one all but the largest of the part in hand, become a part in a colour of its own, which
/// is then in hand. Says what hinders it.
void set_bodies_apart(Session& session);

} // namespace lp
