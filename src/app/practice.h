// The active part laid by the practice printer, beside the interface thread.
#pragma once
#include "app/session.h"

namespace lp {

/// What comes out stands as a part of its own beside the design: a stand-in that can be cut, measured and thrown away. What happened to it is told by Session::last_practice().
void print_in_practice(Session& session);

} // namespace lp
