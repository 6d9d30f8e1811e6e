// The beds in the stretch Bed: everything arranged, and where the copy in hand stands.
#pragma once
#include "app/widgets/column.h"

namespace lp {

/// Adds the section to a column that is being filled.
void add_beds_section(Column* column, Session* session, const Part& part);

} // namespace lp
