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

} // namespace lp
