// STEP files (ISO 10303-21, AP 214) by the kernel's exchange library.
#pragma once
#include "shape/kernel_call.h"

namespace lp {

/// The calls of shape/kernel_call.h. What the library throws comes back as a Problem.
Expected<KernelAnswer> write_step(const KernelCall& call);
Expected<KernelAnswer> read_step(const KernelCall& call);

} // namespace lp
