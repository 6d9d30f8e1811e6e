// The outline of a chosen face or of the open section, written as DXF or SVG.
#pragma once
#include "app/session.h"

namespace lp {

/// Whether one flat face is chosen, or the section is open.
bool has_outline_to_write(const Session& session);
/// To the file, by its ending. What is wrong, or nothing.
std::optional<QString> write_outline(Session& session, const QString& file);

} // namespace lp
