// The gap of a contact on the surface of one side, place by place: what the view colours.
#pragma once
#include "project/contact_ledger.h"

namespace lp {

struct GapMap {
    uint64_t part = 0;
    size_t body = 0;
    std::shared_ptr<const Tessellation> shape; ///< the body with finer facets near the other side, in the design frame
    std::shared_ptr<const std::vector<float>> gap_mm; ///< three a facet; below 0: faces nothing within reach
    double low_mm = 0, high_mm = 0;                   ///< of the scale
    double contour_mm = 0.1;                          ///< between contour lines
};

/// Of the side the contact goes into (b), every body of it that comes near. Stops on request.
std::vector<GapMap> gap_maps(const Evaluation& evaluation, const ContactResult& contact, const Task& task = {});

} // namespace lp
