// Join, cut and keep-common of exact bodies with face tags carried by the kernel's history.
#pragma once
#include "shape/body.h"

namespace lp {

enum class Operation { Join, Cut, Common };
const char* operation_name(Operation operation); ///< "join", "cut", "common"

/// One guarded kernel call for all operands (common: one after the other), flush faces merged, result verified: errors,
/// closed, every face triangulated, volume within the bounds the operands allow. Nothing left is a Problem.
Expected<Body> combine_exact(Operation operation, const Body& first, const std::vector<Body>& others,
                             const Task& task = {});

/// What of a body is inside a tool, and what is outside.
struct PartedBody {
    Body inside, outside;
};
/// Both from one kernel call: where the two meet is found once. Verified like a boolean, and the halves together fill
/// what the body did. NothingLeft when all of it is on one side.
Expected<PartedBody> part_exact(const Body& body, const Body& tool, const Task& task = {});

/// Problem when `volume` cannot be the result of the operation on operands of these volumes.
std::optional<Problem> check_boolean_volume(Operation operation, double result, double first,
                                            const std::vector<double>& others);

} // namespace lp
