// The one door to kernel calls that may throw, crash, hang or lie: they run in a warm helper process
// (loose-peg-kernel), with a time budget, and are cancelled by ending it. Nothing of ours is lost when it dies.
#pragma once
#include "base/task.h"
#include "shape/kernel_call.h"

namespace lp {

/// Runs the call in a helper; from any thread, each caller with a helper of its own. A helper that crashed, was
/// cancelled or took longer than `budget_s` is ended and another takes its place with the next call; the Problem says
/// which it was. Where no helper is installed beside the program, the call runs in place.
Expected<KernelAnswer> run_guarded(const KernelCall& call, const Task& task, double budget_s = 60);

/// Whether calls go to a helper process. False where its program is not beside ours.
bool kernel_is_apart();

/// For tests: the next call crashes, hangs or lies (a face is missing from its answer) instead; empty: as it is.
void kernel_stand_in(const std::string& crash_hang_or_lie);

} // namespace lp
