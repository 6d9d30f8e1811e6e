#include "layers/read_lines.h"
#include "base/tolerance.h"
#include "layers/laid_lines.h"
#include "layers/region_tools.h"
#include <cmath>
#include <map>
#include <tbb/parallel_for.h>

namespace lp {
namespace {

LayerLines lines_of(const std::vector<Laid>& moves, double thickness_mm, double filament_mm) {
    LayerLines layer;
    Eigen::Vector2f at = Eigen::Vector2f::Constant(std::numeric_limits<float>::infinity());
    for (const Laid& move : moves) {
        const auto width = float(laid_width_mm(move, thickness_mm, filament_mm));
        constexpr float same = 0.005f; // of a width: rounding of the filament
        const bool goes_on = !layer.lines.empty() && (move.from - at).norm() < least_way_mm &&
                             std::fabs(layer.lines.back().width_mm - width) < same * width &&
                             layer.lines.back().speed_mm_s == move.speed_mm_s;
        if (!goes_on) {
            PlannedLine line;
            line.first = uint32_t(layer.places.size());
            line.count = 1;
            line.width_mm = width;
            line.height_mm = float(thickness_mm);
            line.speed_mm_s = move.speed_mm_s;
            line.kind = LineKind::Read;
            layer.lines.push_back(line);
            layer.places.push_back(move.from.cast<double>());
        }
        layer.places.push_back(move.to.cast<double>());
        ++layer.lines.back().count;
        at = move.to;
    }
    return layer;
}

/// All that the lines of a layer cover, cells of infill as well.
Region covered_by(const LayerLines& layer) {
    ClipperLib::Clipper all;
    std::map<int, ClipperLib::ClipperOffset> by_width; // in hundredths of a mm
    for (const PlannedLine& line : layer.lines) {
        ClipperLib::Path path;
        for (uint32_t i = 0; i < line.count; ++i) path.push_back(grid_place(layer.places[line.first + i]));
        auto& offset =
            by_width.try_emplace(int(std::lround(double(line.width_mm) * 100)), 2.0, 0.03 * clipper_grid).first->second;
        offset.AddPath(path, ClipperLib::jtRound, ClipperLib::etOpenRound);
    }
    for (auto& [width, offset] : by_width) {
        Region swept;
        offset.Execute(swept, width / 200.0 * clipper_grid);
        all.AddPaths(swept, ClipperLib::ptSubject, true);
    }
    Region whole;
    all.Execute(ClipperLib::ctUnion, whole, ClipperLib::pftNonZero, ClipperLib::pftNonZero);
    constexpr double cell_mm2 = 100;
    std::erase_if(whole, [&](const ClipperLib::Path& loop) {
        const double mm2 = ClipperLib::Area(loop) / (clipper_grid * clipper_grid);
        return mm2 < 0 && -mm2 < cell_mm2;
    });
    return whole;
}

} // namespace

Expected<PartLines> read_lines(const PrintPlan& plan, const ReadLinesOptions& options, const Task& task) {
    task.tell("Reading lines", 0.1);
    const auto by_height = laid_by_height(plan);
    if (!by_height) return pass_on(by_height);
    PartLines lines;
    for (const auto& [key, moves] : *by_height) {
        lines.tops.push_back(key / 1000.0);
        lines.layers.push_back(
            lines_of(moves, std::max(lines.thickness(lines.tops.size() - 1), 0.001), options.filament_mm));
    }
    lines.heights = {lines.tops.size() > 1 ? lines.tops[1] - lines.tops[0] : lines.tops[0], lines.tops[0]};
    const size_t count = lines.layers.size();
    std::vector<Region> covered(count);
    tbb::parallel_for(size_t(0), count, [&](size_t k) {
        if (!task.stopped()) covered[k] = covered_by(lines.layers[k]);
    });
    lines.loose.resize(count);
    const double slope = std::tan(radians(std::min(options.overhang_limit_deg, 85.0)));
    tbb::parallel_for(size_t(1), std::max<size_t>(1, count), [&](size_t k) {
        if (task.stopped()) return;
        const double reach = std::clamp(lines.thickness(k), 0.0, 1.0) * slope;
        // The middle of a line rests when its edge reaches out no further than the slope allows.
        constexpr double half_a_line_mm = 0.2;
        lines.loose[k] = loose_runs(lines.layers[k], offset_region(covered[k - 1], reach - half_a_line_mm, 0.03));
    });
    if (task.stopped()) return cancelled();
    return lines;
}

} // namespace lp
