// What offers mending from elsewhere.
#pragma once
#include "base/problem.h"

namespace lp {

/// A mend step put before one that needs closed bodies.
FieldCure mend_before();

} // namespace lp
