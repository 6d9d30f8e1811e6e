// Which steps of a part a step refers to: by name, number, or faces and edges they made.
#pragma once
#include "project/project.h"

namespace lp {

/// Ids of steps of the part, without repeats. References that cannot be read are left out.
std::vector<uint64_t> steps_used_by(const Part& part, const Step& step);
/// Why the step cannot stand at `index`: the step it uses would come after it, or it after one that uses it. Nothing
/// when it can.
std::optional<Problem> check_move(const Part& part, uint64_t step, size_t index);

} // namespace lp
