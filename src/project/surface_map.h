// A number all over the surface of a body, place by place, with the scale it is shown on: the gap of a contact, how far
// facets hang. What the view colours, draws contours on and reads under the pointer.
#pragma once
#include "project/contact_ledger.h"

namespace lp {

struct SurfaceMap {
    enum class Scale {
        Even,   ///< perceptually even colours from low to high
        Hanging ///< the part's own colour up to the limit, hatched beyond it
    };
    PartId part;
    size_t body = 0;
    std::shared_ptr<const Tessellation> shape;        ///< the surface the values stand on, in the design frame
    std::shared_ptr<const std::vector<float>> values; ///< three a facet, at its corners; below 0: none there
    Scale scale = Scale::Even;
    std::string title, unit;  ///< "Gap", "mm"
    double low = 0, high = 0; ///< ends of the scale
    double contour = 0.1;     ///< between contour lines; 0: none
    double limit = 0;         ///< of Hanging: from here it is hatched; of Even: below it; 0: nothing is
    int decimals = 2;         ///< of numbers on it
};

/// The gap of a contact on the side it goes into (b), every body of it that comes near, with finer facets there. Stops
/// on request.
std::vector<SurfaceMap> gap_maps(const Evaluation& evaluation, const ContactResult& contact, const Task& task = {});
/// How far every facet of a part hangs, in degrees from vertical, as it is printed: 0 for what faces up. A map a body.
std::vector<SurfaceMap> hanging_maps(const PartResult& part, const Transform& pose, double limit_deg);

/// Wall thickness of a part, against lines as wide as the nozzle: contours between their multiples, hatched below two.
/// A map a body; empty when stopped.
std::vector<SurfaceMap> wall_maps(const PartResult& part, double nozzle_mm, const Task& task = {});

} // namespace lp
