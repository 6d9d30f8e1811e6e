#include "layers/bed_lines.h"
#include <algorithm>

namespace lp {
namespace {

constexpr double same_height_mm = 1e-6;

double top_on_bed(const PartLines& lines, size_t layer) {
    return lines.bottom(layer) + lines.thickness(layer) + double(lines.raft) * lines.heights.layer_mm;
}

void add_layer(const LinesOnBed& copy, size_t k, LayerLines& layer, std::vector<LooseRun>& loose) {
    auto placed = [&](const Vec2& p) -> Vec2 { return (copy.stand * Vec3(p.x(), p.y(), 0)).head<2>(); };
    const LayerLines& from = copy.lines->layers[k];
    const auto places = uint32_t(layer.places.size()), lines = uint32_t(layer.lines.size());
    for (const Vec2& p : from.places) layer.places.push_back(placed(p));
    for (PlannedLine line : from.lines) {
        line.first += places;
        layer.lines.push_back(line);
    }
    if (k >= copy.lines->loose.size()) return;
    for (LooseRun run : copy.lines->loose[k]) {
        run.line += lines;
        for (Vec2& p : run.path) p = placed(p);
        loose.push_back(std::move(run));
    }
}

} // namespace

PartLines bed_lines(const std::vector<LinesOnBed>& copies) {
    struct Entry {
        double top;
        size_t copy, layer;
    };
    std::vector<Entry> entries;
    for (size_t i = 0; i < copies.size(); ++i)
        for (size_t k = 0; k < copies[i].lines->layers.size(); ++k)
            entries.push_back({top_on_bed(*copies[i].lines, k), i, k});
    std::stable_sort(entries.begin(), entries.end(),
                     [](const Entry& a, const Entry& b) { return a.top < b.top - same_height_mm; });
    PartLines bed;
    if (!copies.empty()) bed.heights = copies.front().lines->heights;
    for (const Entry& entry : entries) {
        if (bed.tops.empty() || entry.top > bed.tops.back() + same_height_mm) {
            bed.tops.push_back(entry.top);
            bed.layers.emplace_back();
            bed.loose.emplace_back();
        }
        add_layer(copies[entry.copy], entry.layer, bed.layers.back(), bed.loose.back());
    }
    return bed;
}

} // namespace lp
