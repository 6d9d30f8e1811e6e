#include "layers/line_plan.h"
#include "layers/layer_planner.h"
#include <tbb/parallel_for.h>

namespace lp {
namespace {

/// What every window of `below` layers before, itself and `above` after hold together, in three cuts a layer whatever
/// the window: running intersections from the borders of blocks forward and backward, joined once. Windows that reach
/// into the air are empty.
std::vector<Region> held_through(const std::vector<Region>& layers, size_t below, size_t above) {
    const size_t n = layers.size(), width = below + above + 1, blocks = (n + width - 1) / width;
    std::vector<Region> forward(n), backward(n), held(n);
    tbb::parallel_for(size_t(0), blocks, [&](size_t b) {
        const size_t from = b * width, to = std::min(n, from + width);
        for (size_t i = from; i < to; ++i)
            forward[i] = i == from ? layers[i] : intersect_regions(forward[i - 1], layers[i]);
        for (size_t i = to; i-- > from;)
            backward[i] = i + 1 == to ? layers[i] : intersect_regions(backward[i + 1], layers[i]);
    });
    tbb::parallel_for(size_t(0), n, [&](size_t i) {
        if (i < below || i + above >= n) return;
        const size_t from = i - below, to = i + above;
        if (from / width == to / width) // one whole block
            held[i] = forward[to];
        else
            held[i] = intersect_regions(backward[from], forward[to]);
    });
    return held;
}

} // namespace

Expected<std::vector<LayerLines>> plan_lines(const std::vector<Region>& part, const LineOptions& options,
                                             const std::vector<Region>& supports, const std::vector<Region>& solid,
                                             const Task& task) {
    const bool filled = options.infill_percent >= 99;
    const auto covered = filled ? std::vector<Region>(part.size())
                                : held_through(part, size_t(options.bottom_layers), size_t(options.top_layers));
    const auto under_support = options.interface_layers > 0
                                   ? held_through(supports, 0, size_t(options.interface_layers))
                                   : std::vector<Region>();
    std::vector<LayerLines> lines(part.size());
    tbb::parallel_for(size_t(0), part.size(), [&](size_t k) {
        if (task.stopped()) return;
        LayerInput input;
        input.part = part[k];
        input.covered = covered[k];
        input.index = k;
        if (k > 0) input.below = part[k - 1];
        if (k < supports.size()) input.support = supports[k];
        if (k < under_support.size()) input.support_floor = subtract_regions(supports[k], under_support[k]);
        if (k < solid.size()) input.solid = intersect_regions(solid[k], part[k]);
        LayerPlanner(options, input, lines[k]).run();
    });
    if (task.stopped()) return cancelled();
    return lines;
}

} // namespace lp
