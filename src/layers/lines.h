// The lines a printer lays in one layer, and what they are planned by.
#pragma once
#include "bed/slicing.h"
#include "fit/cards.h"
#include <array>

namespace lp {

enum class LineKind : uint8_t {
    OuterWall,
    InnerWall,
    Gap,
    Solid,
    Bridge,
    Sparse,
    Support,
    Read ///< of a plan made elsewhere, which does not say what it is for
};
inline constexpr size_t line_kinds = 8;
/// "outer wall", "thin place" ...
const char* line_kind_words(LineKind kind);

/// One line: a run of places of its layer. Its volume is length x width x height.
struct PlannedLine {
    uint32_t first = 0, count = 0; ///< places in LayerLines::places
    float width_mm = 0, height_mm = 0, speed_mm_s = 0;
    LineKind kind = LineKind::OuterWall;
    bool closed = false;
    bool round_hole = false; ///< a wall round a hole
};

struct LayerLines {
    std::vector<Vec2> places; ///< mm on the bed
    std::vector<PlannedLine> lines;
    double length_mm(const PlannedLine& line) const;
    double volume_mm3() const;
};

/// Lines that are laid before the rest of a layer.
void put_first(LayerLines& layer, LayerLines before);

struct LineOptions {
    LayerHeights heights;
    double width_mm = 0.45;
    int walls = 3;
    int top_layers = 4, bottom_layers = 4;
    double infill_percent = 15;
    Infill infill = Infill::Lines;
    int interface_layers = 0;  ///< of supports that are filled: as many as lie under no other support layer
    double thinnest_mm = 0.25; ///< a free-standing wall this slim still gets a line
    double overhang_limit_deg = 45;
    /// By LineKind, mm/s; a desktop printer's usual ones, common practice, no published source.
    std::array<double, line_kinds> speeds{40, 60, 30, 60, 25, 80, 60, 60};
    double first_layer_speed = 20;
    double most_flow_mm3_s = 12;
};

} // namespace lp
