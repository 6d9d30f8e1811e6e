#include "layers/motion_times.h"
#include "bed/raft.h"
#include "layers/line_plan.h"
#include "layers/region_tools.h"
#include <tbb/parallel_for.h>

namespace lp {

Expected<LineTimes> motion_times(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                                 const Task& task) {
    if (posed.empty())
        return problem(ProblemCode::Geometry, "There is nothing to lay in layers.", "Choose a part with a body.");
    LineOptions lines;
    lines.heights = options.heights;
    lines.width_mm = options.line_width_mm;
    lines.walls = options.walls;
    lines.infill_percent = options.infill_percent;
    lines.overhang_limit_deg = options.overhang_limit_deg;
    const Box3 box = bounding_box(posed);
    const size_t count = options.heights.count(box.sizes().z());
    constexpr double clean_mm = 0.005; // no line can be laid finer
    auto cut = [&](const TriMesh& mesh) {
        auto layers = slice(mesh, options.heights, box.min().z(), count, task);
        tbb::parallel_for(size_t(0), layers.size(), [&](size_t k) { clean_region(layers[k], clean_mm); });
        return layers;
    };
    const auto part = cut(posed);
    const auto carried = supports.empty() ? std::vector<Region>() : cut(supports);
    auto plan = plan_lines(part, lines, carried, {}, task);
    if (!plan) return pass_on(plan);
    if (options.raft_layers > 0 && !plan->empty()) {
        // Rows under all that lies on the bed, three lines apart.
        LineOptions rows = lines;
        rows.walls = 1;
        rows.infill_percent = 33;
        rows.top_layers = rows.bottom_layers = 0;
        Region foot = part.front();
        if (!carried.empty()) foot = unite_regions(foot, carried.front());
        const std::vector<Region> raft(size_t(options.raft_layers), grown(foot, raft_margin_mm));
        auto below = plan_lines(raft, rows, {}, {}, task);
        if (!below) return pass_on(below);
        plan->insert(plan->begin(), below->begin(), below->end());
    }
    return line_times(*plan);
}

} // namespace lp
