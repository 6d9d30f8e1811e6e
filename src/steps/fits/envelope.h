// The kernel's own surface at a distance round an exact body, where it can be believed.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// Exact envelope of an exact body of one piece at `gap` mm all round; nothing when the kernel makes none within a few
/// seconds, or one that is farther than 0.02 mm from where it should be, measured both ways. Faces are named after the
/// body's own. What came of a body and gap is remembered while the body lives: a kernel that hangs is not asked again.
std::optional<Body> exact_envelope(const Body& body, double gap, const StepContext& context);

} // namespace lp
