// Lines of layers as a picture from above: their kinds by tones of the filament and a pattern along their middle.
#pragma once
#include "app/strip/strokes.h"
#include "base/task.h"
#include "layers/part_lines.h"
#include <QColor>
#include <array>

namespace lp {

/// How a kind of line is drawn: none is told by colour alone.
struct LineLook {
    QColor colour;
    Qt::PenStyle middle = Qt::NoPen;
};
LineLook look_of(LineKind kind, const QColor& filament);

/// When each line of a layer is laid at its speed, without hops: seconds from the layer's begin, 0 first.
std::vector<double> laid_at(const LayerLines& layer);

/// What a picture shows, and from where. Colours are taken from the theme when it is made, on the interface thread.
struct LinesShown {
    LinesShown() = default;
    LinesShown(std::shared_ptr<const PartLines> lines, const QColor& filament);
    std::shared_ptr<const PartLines> lines;
    size_t layer = 0;
    size_t below = 0;     ///< so many layers under it are seen too, paler
    double laid_s = 1e18; ///< so much of the layer is laid
    QSize size;           ///< pixels of the picture
    double scale = 4;     ///< pixels a mm
    Vec2 middle = Vec2::Zero();
    std::array<LineLook, line_kinds> looks;
    QColor paper, ink, hanging;

    QPointF to_pixel(const Vec2& place) const;
    Vec2 to_place(const QPointF& pixel) const;
};

/// Strokes of all of it, the lowest layer first, what lies on nothing last.
std::vector<Stroke> strokes_of(const LinesShown& shown);
QImage picture_of(const LinesShown& shown);

} // namespace lp
