// What an SVG or DXF file or a picture holds that can be drawn: paths in millimetres.
#pragma once
#include "base/problem.h"
#include "outline/arrangement.h"
#include <memory>

namespace lp {

struct GreyPicture;

enum class FillRule { EvenOdd, NonZero };

/// One path, circle, polyline ... of a file.
struct FlatPath {
    std::vector<std::vector<Curve>> contours; ///< each a chain of curves
    std::vector<bool> closed;                 ///< one a contour: said to be closed, or its ends meet within 0.01 mm
    std::optional<FillRule> fill;             ///< its own rule; nothing where the file knows none (DXF)
    int painted = -1;                         ///< paths of one painted thing share a number: filled together
};

struct FlatFinding {
    std::string kind; ///< "text", "image", "open path", "gap" ...: one word for programs
    size_t count = 0;
    std::optional<Vec2> where;
    std::string says; ///< a sentence
};

struct FlatPaths {
    std::string format;  ///< "svg", "dxf", "pgm"
    std::string unit;    ///< of the file: "mm", "in", "px" ...
    bool y_down = false; ///< SVG: y grows downward; drawings turn it over about the middle of `height_mm`
    double height_mm = 0;
    std::vector<FlatPath> paths;
    std::shared_ptr<const GreyPicture> picture = {}; ///< of which `paths` are a trace
    std::vector<FlatFinding> findings;               ///< what could not be used, and what was assumed
};

/// Curves of all paths for an arrangement: names from `key` on, contour sets from `first_contour` on. Open contours
/// take part as lines but fill nothing. Without a rule of its own, a path takes `standard`; `over` replaces every rule
/// and fills all paths together.
struct FlatCurves {
    std::vector<SourcedCurve> curves;
    std::vector<FillRule> rules; ///< of each contour set, counted from first_contour
    size_t closed_contours = 0, open_paths = 0;
};
FlatCurves curves_of(const FlatPaths& paths, std::optional<FillRule> over, SourceKey key, int first_contour);

/// Whether a region with these winding numbers is painted by any of the sets.
bool is_painted(const FlatRegion& region, const std::vector<FillRule>& rules, int first_contour = 0);

} // namespace lp
