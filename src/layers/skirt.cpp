#include "layers/skirt.h"
#include "layers/lines.h"
#include "layers/region_tools.h"

namespace lp {

std::vector<std::vector<Vec2>> skirt_of(const Region& ground, int loops, double width_mm) {
    std::vector<std::vector<Vec2>> all;
    for (int k = 0; k < loops; ++k) {
        // Of a skirt nobody asks that its corners are fine.
        for (const ClipperLib::Path& path : offset_region(ground, skirt_apart_mm + (k + 0.5) * width_mm, 0.05)) {
            if (!ClipperLib::Orientation(path)) continue;
            std::vector<Vec2> loop;
            for (const ClipperLib::IntPoint& p : path) loop.push_back(place_of(p));
            all.push_back(std::move(loop));
        }
    }
    return all;
}

LayerLines skirt_lines(const Region& ground, int loops, double height_mm, const LineOptions& options) {
    LayerLines lines;
    for (const auto& loop : skirt_of(ground, loops, options.width_mm)) {
        PlannedLine line;
        line.first = uint32_t(lines.places.size());
        line.count = uint32_t(loop.size());
        line.width_mm = float(options.width_mm);
        line.height_mm = float(height_mm);
        line.speed_mm_s = float(options.first_layer_speed);
        line.kind = LineKind::Support;
        line.closed = true;
        lines.places.insert(lines.places.end(), loop.begin(), loop.end());
        lines.lines.push_back(line);
    }
    return lines;
}

} // namespace lp
