// Which way a part is pulled in use: told by a chosen face or edge, weighed when ways up are compared.
#pragma once
#include "app/session.h"

namespace lp {

/// The direction of the one thing chosen, in the design frame of its part: of a flat face its normal, of a round one
/// its axis, of a straight edge its own. None for other choices and for parts that are not printed.
std::optional<Vec3> chosen_way(const Session& session);
/// The part of the chosen thing is pulled that way; why not, in words.
std::optional<QString> pull_along_chosen(Session& session);

} // namespace lp
