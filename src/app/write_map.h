// The map that colours the view, written as a file with a colour at every corner.
#pragma once
#include "app/session.h"

namespace lp {

/// Whether something is mapped: walls, deviation, what hangs, or a gap.
bool has_map_to_write(const Session& session);
/// Writes it. What is wrong, or nothing.
std::optional<QString> write_map(Session& session, const QString& file);

} // namespace lp
