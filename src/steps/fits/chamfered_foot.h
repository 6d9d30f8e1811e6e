// The first layer is pressed wider than it is drawn: bodies that are printed in each other get a chamfer at the foot
// where they face each other, so that it does not join them.
#pragma once
#include "steps/step_kind.h"

namespace lp {

/// What is to be cut from the feet of two bodies, and what that leaves of them; none where they are far enough apart,
/// or touch.
struct FootTools {
    std::optional<Body> of_a, of_b, left_of_a, left_of_b;
};
/// Both stand on the plane z = 0 of `stands`. Cut with the tools their sections half way up the first layer are
/// `context.first_layer_gap_mm` apart or more; the cuts end where the bodies are drawn as far apart as there, and lean
/// as steep as the overhang limit allows.
Expected<FootTools> foot_tools(const Body& a, const Body& b, const Transform& stands, const StepContext& context,
                               uint64_t salt);

/// Each pair of them in turn. How many pairs got a chamfer is added to `count`.
Expected<std::vector<Body>> with_chamfered_feet(std::vector<Body> bodies, const Transform& stands,
                                                const StepContext& context, size_t& count);

} // namespace lp
