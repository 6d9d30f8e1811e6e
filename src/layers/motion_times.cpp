#include "layers/motion_times.h"
#include "bed/raft.h"
#include "layers/line_plan.h"
#include "layers/part_lines.h"

namespace lp {

Expected<LineTimes> motion_times(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                 const Task& task) {
    auto plan = plan_posed(posed, supports, options, task);
    if (!plan) return pass_on(plan);
    std::vector<LayerLines>& laid = plan->lines;
    if (options.raft_layers > 0 && !laid.empty()) {
        // Rows under all that lies on the bed, three lines apart.
        LineOptions rows = plan->options;
        rows.walls = 1;
        rows.infill_percent = 33;
        rows.top_layers = rows.bottom_layers = 0;
        Region foot = plan->part.front();
        if (!plan->supports.empty()) foot = unite_regions(foot, plan->supports.front());
        const std::vector<Region> raft(size_t(options.raft_layers), offset_region(foot, raft_margin_mm));
        auto below = plan_lines(raft, rows, {}, {}, task);
        if (!below) return pass_on(below);
        laid.insert(laid.begin(), below->begin(), below->end());
    }
    return line_times(laid);
}

} // namespace lp
