#include "layers/part_lines.h"
#include "bed/raft.h"
#include "layers/line_plan.h"
#include "layers/region_tools.h"
#include "layers/skirt.h"
#include <tbb/parallel_for.h>

namespace lp {
namespace {

constexpr double least_mm = 0.5; ///< shorter runs droop by nothing

struct Place {
    Vec2 at;
    bool held;
};

/// Every 0.2 mm; a closed line ends where it begins.
std::vector<Place> places_along(const LayerLines& layer, const PlannedLine& line, const Region& held) {
    constexpr double apart_mm = 0.2;
    std::vector<Place> places;
    auto add = [&](const Vec2& p) { places.push_back({p, holds(held, grid_place(p))}); };
    for (uint32_t i = 0; i < line.count + (line.closed ? 1 : 0); ++i) {
        const Vec2& b = layer.places[line.first + i % line.count];
        if (i > 0) {
            const Vec2& a = layer.places[line.first + i - 1];
            const int k = int((b - a).norm() / apart_mm);
            for (int j = 1; j <= k; ++j) add(a + (b - a) * (double(j) / (k + 1)));
        }
        add(b);
    }
    return places;
}

/// By more than 45 degrees.
bool turns(const Vec2& before, const Vec2& at, const Vec2& after) {
    const Vec2 in = at - before, out = after - at;
    return in.dot(out) < std::cos(radians(45.0)) * in.norm() * out.norm();
}

} // namespace

std::vector<LooseRun> loose_runs(const LayerLines& layer, const Region& held) {
    std::vector<LooseRun> runs;
    for (uint32_t i = 0; i < layer.lines.size(); ++i) {
        const PlannedLine& line = layer.lines[i];
        if (line.kind == LineKind::Support) continue; // how supports stand is told by what makes them
        std::vector<Place> places = places_along(layer, line, held);
        size_t first = 0;
        while (first < places.size() && !places[first].held) ++first;
        const bool nowhere = first == places.size();
        if (line.closed && !nowhere && first > 0) { // it begins where it is held, so that no run wraps
            places.pop_back();
            std::rotate(places.begin(), places.begin() + std::ptrdiff_t(first), places.end());
            places.push_back(places.front());
        }
        for (size_t a = 0; a < places.size();) {
            size_t b = a;
            double length = 0;
            bool turned = false; // round a corner it is another strand: the rows of a fill are one line
            for (; b < places.size() && !places[b].held && !turned; ++b) {
                if (b > a) length += (places[b].at - places[b - 1].at).norm();
                turned = b > a && b + 1 < places.size() && turns(places[b - 1].at, places[b].at, places[b + 1].at);
            }
            const bool held_before = a > 0 && places[a - 1].held, held_after = b < places.size() && places[b].held;
            if (b > a && length >= least_mm) {
                LooseRun run{i, length, held_before && held_after, {}};
                for (size_t k = a; k < b; ++k) run.path.push_back(places[k].at);
                runs.push_back(std::move(run));
            }
            a = std::max(turned ? b - 1 : b, a + 1);
        }
    }
    return runs;
}

double PartLines::bottom(size_t layer) const {
    if (!tops.empty()) return layer == 0 ? 0 : tops[layer - 1];
    return layer < raft ? -double(raft - layer) * heights.layer_mm : heights.bottom(layer - raft);
}

double PartLines::thickness(size_t layer) const {
    if (!tops.empty()) return tops[layer] - bottom(layer);
    return layer < raft ? heights.layer_mm : heights.thickness(layer - raft);
}

Expected<PosedPlan> plan_posed(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task) {
    if (posed.empty())
        return problem(ProblemCode::Geometry, "There is nothing to lay in layers.", "Choose a part with a body.");
    PosedPlan plan;
    LineOptions& lines = plan.options;
    lines.heights = options.heights;
    lines.width_mm = options.line_width_mm;
    lines.walls = options.walls;
    lines.infill_percent = options.infill_percent;
    lines.infill = options.infill;
    lines.overhang_limit_deg = options.overhang_limit_deg;
    lines.interface_layers = options.interface_layers;
    const Box3 box = bounding_box(posed);
    const size_t count = options.heights.count(box.sizes().z());
    constexpr double clean_mm = 0.005; // no line can be laid finer
    auto cut = [&](const TriMesh& mesh) {
        auto layers = slice(mesh, options.heights, box.min().z(), count, task);
        tbb::parallel_for(size_t(0), layers.size(), [&](size_t k) { clean_region(layers[k], clean_mm); });
        return layers;
    };
    plan.part = cut(posed);
    if (!supports.empty()) plan.supports = cut(supports);
    plan.solid = solid_regions(options.solids, options.heights, box.min().z(), count, task);
    auto laid = plan_lines(plan.part, lines, plan.supports, plan.solid, task);
    if (!laid) return pass_on(laid);
    plan.lines = std::move(*laid);
    return plan;
}

Expected<std::vector<LayerLines>> raft_lines(const PosedPlan& plan, const LayerOptions& options, const Task& task) {
    if (options.raft_layers <= 0 || plan.part.empty()) return std::vector<LayerLines>();
    Region foot = plan.part.front();
    if (!plan.supports.empty()) foot = unite_regions(foot, plan.supports.front());
    const Region under = offset_region(foot, raft_margin_mm);
    LineOptions rows = plan.options;
    rows.heights.first_mm = rows.heights.layer_mm;
    rows.walls = 1;
    rows.infill_percent = 33;
    rows.infill = Infill::Lines;
    rows.interface_layers = 0;
    rows.bottom_layers = 0;
    rows.top_layers = options.raft_layers > 1 ? 1 : 0; // what the part stands on
    auto laid = plan_lines(std::vector<Region>(size_t(options.raft_layers), under), rows, {}, {}, task);
    if (!laid) return laid;
    for (LayerLines& layer : *laid)
        for (PlannedLine& line : layer.lines) line.kind = LineKind::Support;
    return laid;
}

namespace {

/// Loops beside each other, as many as there is room for.
Expected<LayerLines> brim_lines(const TriMesh& brim, double ground_mm, LineOptions options, const Task& task) {
    auto layers = slice(brim, options.heights, ground_mm, 1, task);
    options.walls = 200;
    auto laid = plan_lines(layers, options, {}, {}, task);
    if (!laid) return pass_on(laid);
    for (PlannedLine& line : laid->front().lines) line.kind = LineKind::Support;
    return std::move(laid->front());
}

/// All that lies on the bed.
Region ground_of(const PosedPlan& plan, const TriMesh& brim, const LayerOptions& options) {
    Region ground = plan.part.front();
    if (!plan.supports.empty()) ground = unite_regions(ground, plan.supports.front());
    if (!brim.empty())
        ground = unite_regions(ground, slice(brim, options.heights, bounding_box(brim).min().z(), 1).front());
    return options.raft_layers > 0 ? offset_region(ground, raft_margin_mm) : ground;
}

} // namespace

Expected<PartLines> part_lines(const TriMesh& posed, const TriMesh& supports, const LayerOptions& options,
                               const Task& task, const TriMesh& brim) {
    task.tell("Planning lines", 0.1);
    auto plan = plan_posed(posed, supports, options, task);
    if (!plan) return pass_on(plan);
    PartLines result{options.heights, 0, std::move(plan->lines), {}, {}};
    if (!brim.empty() && !result.layers.empty()) {
        auto laid = brim_lines(brim, bounding_box(posed).min().z(), plan->options, task);
        if (!laid) return pass_on(laid);
        put_first(result.layers[0], std::move(*laid));
    }
    auto raft = raft_lines(*plan, options, task);
    if (!raft) return pass_on(raft);
    if (options.skirt_loops > 0 && !result.layers.empty()) {
        LayerLines& lowest = raft->empty() ? result.layers[0] : raft->front();
        put_first(lowest,
                  skirt_lines(ground_of(*plan, brim, options), options.skirt_loops,
                              raft->empty() ? options.heights.first_mm : options.heights.layer_mm, plan->options));
    }
    result.loose.resize(result.layers.size());
    const double slope = std::tan(radians(std::min(options.overhang_limit_deg, 89.0)));
    tbb::parallel_for(size_t(1), std::max<size_t>(1, result.layers.size()), [&](size_t k) {
        if (task.stopped() || result.layers[k].lines.empty()) return;
        const double step = options.heights.thickness(k) * slope;
        Region below = plan->part[k - 1];
        if (!plan->supports.empty())
            below =
                unite_regions(below, carried_by_supports(plan->supports, k, options.heights, options.support_gap_mm));
        constexpr double rounding_mm2 = 1e-3;
        if (region_area_mm2(subtract_regions(plan->part[k], offset_region(below, step * 1.01 + 0.005))) < rounding_mm2)
            return;
        // The middle of a wall at the very limit rests.
        result.loose[k] = loose_runs(result.layers[k], offset_region(below, step));
    });
    if (task.stopped()) return cancelled();
    result.raft = raft->size();
    result.layers.insert(result.layers.begin(), raft->begin(), raft->end());
    result.loose.insert(result.loose.begin(), raft->size(), {});
    return result;
}

} // namespace lp
