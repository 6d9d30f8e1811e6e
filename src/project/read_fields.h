// The texts of a step's fields, worked out and held to their limits.
#pragma once
#include "base/hash.h"
#include "project/project.h"

namespace lp {

/// Fills the words and numbers of a context and adds them, and what drawings among them use, to the cache key. A
/// Problem names the field that cannot be read, is not chosen, or lies outside its limits (NaN does).
std::optional<Problem> read_fields(const Project& project, const ParameterValues& values, const Part& part,
                                   const Step& step, const StepKind& kind, StepContext& context, Hasher& key);

} // namespace lp
