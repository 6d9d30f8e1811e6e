// The kernel library's model of a STEP file from its text. The library's own scanner takes a character at a time from
// its stream and looks at each of a word's once more for every further one, which is half of its time; what it makes of
// the words is used as it is.
#pragma once
#include "kernel/step_share.h"
#include <StepData_Protocol.hxx>
#include <StepData_StepModel.hxx>

namespace lp {

/// The share's instances. Null where the text holds what this does not know (scopes, words that are no such): the
/// library's own reader knows how to go on behind them.
Handle(StepData_StepModel)
    step_model(const StepText& step, const StepShare& share, const Handle(StepData_Protocol) & protocol);

} // namespace lp
