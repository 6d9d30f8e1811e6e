// Parts laid out on as few beds as they need, by their true outlines: turned about the upright, apart from each other
// by a spacing, in and round each other where they fit.
#pragma once
#include "base/problem.h"
#include "base/task.h"
#include "shape/tri_mesh.h"
#include <limits>
#include <optional>
#include <string>

namespace lp {

/// Where a thing stands: turned about the upright, then moved.
struct BedSpot {
    size_t bed = 0;
    Vec2 at = Vec2::Zero(); ///< the middle of its box, from the front left corner of its bed, mm
    double turn_deg = 0;
    bool operator==(const BedSpot&) const = default;
};
/// Turns a mesh and puts the middle of its box there, its lowest place on z = 0.
Transform placed_at(const TriMesh& posed, const BedSpot& spot);

struct ArrangeItem {
    const TriMesh* posed = nullptr;     ///< as it lies, up is +z; the same mesh for copies
    std::string group = {};             ///< only things of one group share a bed: a colour, a material
    double brim_mm = 0;                 ///< round it, laid down with it
    std::optional<BedSpot> locked = {}; ///< stays there; the others go round it
};

struct ArrangeOptions {
    Vec2 bed_mm{220, 220};
    double spacing_mm = 3; ///< between outlines, brims included; none to the border of the bed
    bool turning = true;
    /// Of things taller than this at most one stands on a bed: the last to be printed where each is printed whole.
    double passes_over_mm = std::numeric_limits<double>::infinity();
};

struct Arranged {
    std::vector<std::optional<BedSpot>> spots; ///< of each item; none: larger than the bed however it is turned
    size_t beds = 0;
    std::vector<double> used_share; ///< of each bed's area, by the outlines of what stands there
};

/// Outlines are judged in squares of 0.25 to 1 mm, finer for fewer things: nothing comes nearer than the spacing, and
/// may stay a square farther. What stands on a bed is moved to its middle, unless something there is locked. Fails on
/// request, and for sizes that make no sense.
Expected<Arranged> arrange(const std::vector<ArrangeItem>& items, const ArrangeOptions& options, const Task& task = {});

/// Which of the things stand in another one of their bed, by more than about two millimetres; `locked` says where each
/// is, those without are left out. Which of them stand nearer to another than `apart_mm`, by more than about two
/// millimetres, where one is given.
std::vector<bool> standing_in_another(const std::vector<ArrangeItem>& items, const Vec2& bed_mm, const Task& task = {},
                                      double apart_mm = 0);
/// How tall a thing is as it lies.
double height_of(const TriMesh& posed);

} // namespace lp
