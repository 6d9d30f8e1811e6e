// The map that colours the view, written as a file with a colour at every corner.
#pragma once
#include "app/session.h"

namespace lp {

/// Whether something is mapped: walls, deviation, what hangs, or a gap.
bool has_map_to_write(const Session& session);
/// Writes it beside the interface; says where, and from what to what its colours go, or what is wrong.
void write_map(Session& session, const QString& file);
inline constexpr const char* nothing_mapped = "Nothing is mapped: colour walls, a gap or a deviation first.";

} // namespace lp
