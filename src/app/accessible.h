// What our own painted widgets are to who hears the window instead of seeing it.
#pragma once

namespace lp {

/// Roles and values of the painted widgets for assistive programs. Once a process.
void tell_assistive_programs();

} // namespace lp
