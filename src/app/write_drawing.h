// The drawing of a part, written beside what is exported.
#pragma once
#include "app/session.h"

namespace lp {

/// Of the active part as it lies on the bed, to a .pdf or .svg in the folder, made beside the interface; says where it
/// went, or why not.
void write_drawing(Session& session, const QString& folder, Paper paper, const QString& ending);

} // namespace lp
