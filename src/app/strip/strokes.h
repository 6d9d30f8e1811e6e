// Many thick lines made into a picture on the processor, beside the interface thread.
#pragma once
#include <QImage>
#include <QPointF>
#include <vector>

namespace lp {

/// A straight line with round ends. Pixels; y downwards, a pixel's middle at half.
struct Stroke {
    float ax, ay, bx, by;
    float half; ///< of its width
    QRgb colour;
};

/// The strokes on a ground, a later one over an earlier. Smooth at their edges, opaque within. Ones that are not finite
/// are left out.
QImage picture_of(const std::vector<Stroke>& strokes, QSize size, QRgb ground);

} // namespace lp
