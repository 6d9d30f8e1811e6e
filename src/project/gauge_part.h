// The coupon of a fit gauge as a part of ordinary steps.
#pragma once
#include "project/project.h"

namespace lp {

/// A labelled coupon with a ladder of gaps, printable flat in under half an hour: holes in a plate with the peg, pin or
/// card beside it, holes alone for a bought screw, or a row of small hinges. Numbers are sunk beside each; 1 is the
/// tightest. Refused as check_ladder() says.
Expected<Part> gauge_part(const GaugeLadder& ladder);

/// A region of a joint as a small part of its own: the bodies of both parts cut to a box round a place. Follows when
/// they change. Places are in the assembly.
Expected<Part> test_piece(const Project& project, const std::vector<PartId>& parts, const Vec3& at,
                          const Vec3& size_mm);

} // namespace lp
