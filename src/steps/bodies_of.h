// The bodies of steps' bodies, for what knows nothing of steps.
#pragma once
#include "shape/resolve_among.h"
#include "steps/step_context.h"

namespace lp {

inline std::vector<const Body*> bodies_of(const std::vector<StepBody>& bodies) {
    std::vector<const Body*> all;
    for (const StepBody& one : bodies) all.push_back(&one.body);
    return all;
}

} // namespace lp
