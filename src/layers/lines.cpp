#include "layers/lines.h"

namespace lp {

const char* line_kind_words(LineKind kind) {
    static constexpr const char* words[line_kinds] = {"outer wall", "inner wall", "thin place", "solid",
                                                      "bridge",     "infill",     "support",    "laid"};
    return words[size_t(kind)];
}

double LayerLines::length_mm(const PlannedLine& line) const {
    double length = 0;
    for (uint32_t i = 1; i < line.count; ++i) length += (places[line.first + i] - places[line.first + i - 1]).norm();
    if (line.closed && line.count) length += (places[line.first] - places[line.first + line.count - 1]).norm();
    return length;
}

double LayerLines::volume_mm3() const {
    double volume = 0;
    for (const PlannedLine& line : lines) volume += length_mm(line) * double(line.width_mm) * double(line.height_mm);
    return volume;
}

void put_first(LayerLines& layer, LayerLines before) {
    const auto shift = uint32_t(before.places.size());
    for (PlannedLine& line : layer.lines) line.first += shift;
    before.places.insert(before.places.end(), layer.places.begin(), layer.places.end());
    before.lines.insert(before.lines.end(), layer.lines.begin(), layer.lines.end());
    layer.places = std::move(before.places);
    layer.lines = std::move(before.lines);
}

} // namespace lp
