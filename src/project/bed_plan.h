// Everything that is printed, as it stands on the beds: each copy where it was put, the others in rows on beds of their
// own. The window shows it and the export writes it.
#pragma once
#include "project/edit.h"
#include <functional>

namespace lp {

struct BedItem {
    PartId part;
    int copy = 0;      ///< the first is 0
    BedSpot spot = {}; ///< its middle, with what else is printed of it
    bool put = false, locked = false;
    Transform stand = Transform::Identity(); ///< from the part's print pose to the front left corner of its bed
    double wide_mm = 0;                      ///< from left to right, as it stands
    bool past_border = false;                ///< it reaches past the border of its bed
};
struct BedPlan {
    std::vector<BedItem> items; ///< in the order of the shelf
    size_t beds = 1;
};

/// The box of what is printed of a part as it lies, supports included, turned about the upright by so many degrees;
/// empty when nothing is.
using BoxOnBed = std::function<Box3(const Part& part, double turn_deg)>;
BedPlan bed_plan(const Project& project, const BoxOnBed& box_on_bed);
/// The box of a mesh turned about the upright.
Box3 turned_box(const TriMesh& mesh, double turn_deg);

/// Things of a bed in the order in which they are printed where each is printed whole before the next: the lowest
/// first. As they were otherwise.
std::vector<BedItem> in_printing_order(const Project& project, std::vector<BedItem> items,
                                       const std::function<double(PartId)>& height_mm);

/// What is printed of a part, for arranging: as it lies, with its supports.
struct BedThing {
    PartId part;
    TriMesh posed;
};
/// A copy that cannot stay where it was put.
struct BedTrouble {
    PartId part;
    int copy = 0;
    size_t bed = 0;
    bool past_border = false, in_another = false;
    bool under_head = false; ///< the head would meet it while the others of its bed are printed, one at a time
};
/// Of copies that were put somewhere, and of what they stand in; nothing while all stand in rows. Printed one at a
/// time, of all that stand too near to each other, and of all that are too tall but for the tallest.
std::vector<BedTrouble> bed_troubles(const Project& project, const std::vector<BedThing>& things,
                                     const Task& task = {});
/// Every copy in a new place, as few beds as it needs, a colour a bed where the project wants that; what is locked
/// stays. The edit that does it; a problem when something is larger than the bed, that names it.
Expected<SetStands> arrange_beds(const Project& project, const std::vector<BedThing>& things, const Task& task = {});

} // namespace lp
