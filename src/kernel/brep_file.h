// Boundary representations as the geometry kernel's own text files hold them.
#pragma once
#include "shape/kernel_call.h"

namespace lp {

/// The call of shape/kernel_call.h. What the library throws comes back as a Problem.
Expected<KernelAnswer> read_brep(const KernelCall& call);

} // namespace lp
