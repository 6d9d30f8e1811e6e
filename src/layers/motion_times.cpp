#include "layers/motion_times.h"
#include "layers/part_lines.h"

namespace lp {

Expected<LineTimes> motion_times(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                 const Task& task) {
    auto plan = plan_posed(posed, supports, options, task);
    if (!plan) return pass_on(plan);
    auto raft = raft_lines(*plan, options, task);
    if (!raft) return pass_on(raft);
    raft->insert(raft->end(), plan->lines.begin(), plan->lines.end());
    return line_times(*raft);
}

} // namespace lp
