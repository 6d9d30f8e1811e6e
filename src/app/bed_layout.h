// Everything that is printed, as it will lie: poses, quantities, several beds side by side.
#pragma once
#include "app/session.h"
#include "project/bed_plan.h"

namespace lp {

struct BedCopy {
    PartId part;
    int copy = 0;                            ///< the first is 0
    Transform place = Transform::Identity(); ///< from the part's design frame to the beds' frame
    Transform stand = Transform::Identity(); ///< from its print pose to the beds' frame
    BedSpot spot;                            ///< its middle, from the front left corner of its bed
    bool put = false, locked = false;        ///< by hand or by arranging; else it stands in a row
    double wide_mm = 0;                      ///< from left to right, as it stands
    bool past_border = false;
};
struct BedLayout {
    std::vector<BedCopy> copies; ///< in the order of the shelf, at most 200 of a part: more could not be told apart
    size_t beds = 1;
};
/// The middle of the first bed is the origin; the others stand beside and behind it (middle_of_bed).
BedLayout bed_layout(const Session& session);
/// "14 things on 3 beds".
QString words_of_beds(size_t things, size_t beds);
/// Where the first copy of a part is taken to from its print pose; nothing on the bed stays where it is.
Transform on_its_bed(const Session& session, PartId part);

} // namespace lp
