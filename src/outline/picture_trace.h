// A picture's dark shapes as curves: a photo of an emblem becomes an outline.
#pragma once
#include "outline/flat_paths.h"
#include <map>
#include <mutex>

namespace lp {

/// Brightness, 0 black to 255 white, row by row from the top. Traces of it are kept with it: a drawing is worked out
/// often and its picture stays the same.
struct GreyPicture {
    uint32_t width = 0, height = 0;
    std::vector<uint8_t> grey;

    mutable std::mutex mutex;
    mutable std::map<std::pair<int, bool>, std::vector<FlatPath>> traces; ///< by threshold and ink
};

/// A picture has no size of its own: a pixel is taken as that of a screen, 96 an inch (CSS Values and Units, level 3),
/// until its scale is set.
inline constexpr double picture_pixel_mm = 25.4 / 96;

struct TraceOptions {
    bool light_ink = false;     ///< the shapes are lighter than what is round them
    std::optional<double> dark; ///< brightness that parts ink from ground, 0 to 1; none: found in the picture
};
/// From the texts of an element: "dark" or "light"; "auto" or percent. Problems say what may be written.
Expected<TraceOptions> trace_options(const std::string& ink, const std::string& dark);

/// The brightness, 0 to 255, that parts a picture's pixels best into two sorts: the largest variance between them
/// (N. Otsu, A threshold selection method from gray-level histograms, 1979).
int parting_brightness(const GreyPicture& picture);

/// Closed contours in mm, y up, the lower left corner of the picture at the origin; filled by turns. Specks below a two
/// hundredth of the longer side across are left out. Problems: nothing of that brightness, more than 50,000 curves.
Expected<std::vector<FlatPath>> traced_picture(const GreyPicture& picture, const TraceOptions& options = {});

} // namespace lp
